/** Tasks that come at their moments and are worked by so many machines, as Redis gives them out: whoever is free takes the most urgent, the oldest first; nothing that was begun is broken off. */

export interface Arrival {
  /** Seconds. */
  at: number
  /** Lower comes first. */
  priority: number
  /** How long it is worked on. */
  seconds: number
}

export interface Answered extends Arrival {
  began: number
  ended: number
}

/** @param slots how many tasks are worked on at the same time @returns in the order in which they were begun */
export function simulate(arrivals: readonly Arrival[], slots: number): Answered[] {
  const coming = [...arrivals].sort((a, b) => a.at - b.at)
  const priorities = [...new Set(coming.map(({ priority }) => priority))].sort((a, b) => a - b)
  const waiting = new Map(priorities.map((priority) => [priority, { tasks: [] as Arrival[], next: 0 }]))
  const free = Array.from({ length: slots }, () => 0)
  const answered: Answered[] = []
  let next = 0
  const take = (until: number) => {
    while (next < coming.length && coming[next]!.at <= until) {
      const task = coming[next++]!
      waiting.get(task.priority)!.tasks.push(task)
    }
  }
  while (answered.length < coming.length) {
    let slot = 0
    for (let i = 1; i < slots; i++) if (free[i]! < free[slot]!) slot = i
    let now = free[slot]!
    take(now)
    let queue = priorities.map((priority) => waiting.get(priority)!).find(({ tasks, next: at }) => at < tasks.length)
    if (!queue) {
      // nobody waits: until the next one comes
      now = coming[next]!.at
      take(now)
      queue = priorities.map((priority) => waiting.get(priority)!).find(({ tasks, next: at }) => at < tasks.length)!
    }
    const task = queue.tasks[queue.next++]!
    free[slot] = now + task.seconds
    answered.push({ ...task, began: now, ended: now + task.seconds })
  }
  return answered
}
