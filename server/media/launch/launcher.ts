/** The small process itself: starts programs with sockets as their streams, and tells how they ended. */
import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { rmSync } from 'node:fs'
import { connect, type Socket } from 'node:net'
import { setPriority } from 'node:os'
import { HEADER_BYTES, type Order, type Report, STREAMS, type Start, type StreamName } from './launch.ts'

const running = new Map<number, ChildProcess>()
/** Killed before they were started. */
const unwanted = new Set<number>()

const tell = (report: Report) => {
  // whoever asked may be ended in this moment: what runs is then ended by `end`
  if (process.connected) process.send!(report, () => {})
}

async function socketOf({ id, address }: Start, stream: StreamName): Promise<Socket> {
  const socket = connect(address)
  socket.on('error', () => {})
  await once(socket, 'connect')
  const header = Buffer.alloc(HEADER_BYTES)
  header[0] = STREAMS.indexOf(stream)
  header.writeUInt32LE(id, 1)
  await new Promise<void>((resolve, reject) => socket.write(header, (error) => (error ? reject(error) : resolve())))
  return socket
}

async function start(order: Start) {
  const { id, program, args, hasInput, cwd } = order
  try {
    const names = STREAMS.filter((name) => hasInput || name !== 'stdin')
    const sockets = await Promise.all(names.map((name) => socketOf(order, name)))
    const [stdout, stderr] = sockets.slice(-2) as [Socket, Socket]
    const child = spawn(program, args, { cwd, stdio: [hasInput ? sockets[0]! : 'ignore', stdout, stderr] })
    running.set(id, child)
    child.on('error', (error: NodeJS.ErrnoException) => tell({ id, failed: error.message, errno: error.code }))
    child.on('exit', (code) => {
      running.delete(id)
      tell({ id, code })
    })
    child.on('spawn', () => {
      try {
        setPriority(child.pid!, 10)
      } catch {
        // it may have ended already
      }
    })
    // the program has its own copies
    for (const socket of sockets) socket.destroy()
    if (unwanted.delete(id)) child.kill('SIGKILL')
  } catch (error) {
    const { message, code } = error as NodeJS.ErrnoException
    tell({ id, failed: message, errno: code })
  }
}

process.on('message', (order: Order) => {
  if (!('kill' in order)) start(order)
  else if (!running.get(order.kill)?.kill('SIGKILL')) unwanted.add(order.kill)
})
/** Whoever asked has ended, perhaps without a chance to tidy up: nobody reads what is written any more, and nobody else removes the folder. */
function end() {
  for (const child of running.values()) child.kill('SIGKILL')
  rmSync(process.argv[2]!, { recursive: true, force: true })
  process.exit()
}
process.on('disconnect', end)
// it may have ended while this was being loaded
if (!process.connected) end()
