/** How much of what takes long: a small seeded portion each time, all of it by `make soak`. */
export const soaking = !!process.env.MOPSEL_SOAK
const seed = Number(process.env.MOPSEL_SEED ?? 0)

/** The seeds of this run: the first few of a fixed sequence, or in a soak all of those behind `MOPSEL_SEED`. */
export function seeds(what: string, all: number, few: number): number[] {
  const many = soaking ? all : few
  console.log(`${what}: seeds ${seed + 1} to ${seed + many}`)
  return Array.from({ length: many }, (_, n) => seed + 1 + n)
}
