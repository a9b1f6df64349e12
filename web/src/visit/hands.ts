/** Which steps of a check are ticked, kept on this device for the visit under way. */
const OF = 'mopsel.hands.'

export const handsKey = (system: string, check: string) => `${OF}${system}.${check}`

/** The visit was closed or thrown away: the next one begins with nothing ticked. */
export function forgetHands(system: string) {
  for (const key of Object.keys(sessionStorage)) if (key.startsWith(`${OF}${system}.`)) sessionStorage.removeItem(key)
}
