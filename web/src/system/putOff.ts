import type { Schemas, Task } from '../api/client'

/** What is due by tomorrow and can be put off is asked about; the rest is moved in the weeks ahead. */
export const canPutOff = (task: Task) => task.movable && task.days_late >= -1

/** A task that can be moved, by what it is. */
export type Movable = Pick<Task, 'code' | 'name' | 'check' | 'rule' | 'parts'>

/** What is moved with it: of one look all that it takes in. */
export const choresOf = (task: Movable): Schemas['Chore'][] =>
  task.rule
    ? [{ of: 'rule', rule: task.rule, name: task.name }]
    : (task.parts?.length ? task.parts : [task.check!]).map((check) => ({ of: 'check', check }))

export const dayName = (on: string) =>
  new Date(`${on}T12:00`).toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric', month: 'short' })
