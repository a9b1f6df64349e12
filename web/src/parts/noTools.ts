/** Stands in for the query library's development tools. */
export function setupDevtools() {}
