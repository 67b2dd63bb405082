/** @returns a queue for each name: what is done to one file is done one after the other */
export function turnsByName() {
  const last = new Map<string, Promise<unknown>>()
  return <T>(name: string, work: () => Promise<T>): Promise<T> => {
    const result = (last.get(name) ?? Promise.resolve()).then(work, work)
    last.set(name, result)
    const done = () => {
      if (last.get(name) === result) last.delete(name)
    }
    result.then(done, done)
    return result
  }
}
