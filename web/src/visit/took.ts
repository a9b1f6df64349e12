/** A visit that was left open for longer says nothing of the work, in minutes. */
const MOST = 120

/** How long a visit takes, from the moment on which its page was opened; nothing where it was left open. */
export function useTook() {
  let begun = Date.now()
  return {
    took() {
      const minutes = Math.round((Date.now() - begun) / 60_000)
      return minutes >= 1 && minutes <= MOST ? { minutes } : {}
    },
    begin: () => (begun = Date.now()),
  }
}
