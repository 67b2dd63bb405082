"""Rings of a server of one machine: python3 rings.py FOLDER ACCOUNT_PORT CONTAINER_PORT OBJECT_PORT"""
import sys
from swift.common.ring import RingBuilder

folder, *ports = sys.argv[1:]
for kind, port in zip(("account", "container", "object"), ports):
    builder = RingBuilder(4, 1, 0)
    builder.add_dev(
        {"id": 0, "region": 1, "zone": 1, "ip": "127.0.0.1", "port": int(port), "device": "d1", "weight": 1, "meta": ""}
    )
    builder.rebalance()
    builder.get_ring().save(f"{folder}/{kind}.ring.gz")
