export const executablePath: string
export const args: string[]
