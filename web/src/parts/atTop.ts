/** On a screen that is low, a step begins at its top: nothing else is in sight. */
const LOW = 500

export function atTop(heading: HTMLElement | undefined) {
  if (window.innerHeight < LOW) heading?.closest('section')?.scrollIntoView({ block: 'start' })
}
