/** Stands in for the style sheets that PrimeVue's controls bring along: they are not used. */
export const style = ''
