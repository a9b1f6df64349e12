import type { Schemas, Task } from '../api/client'

/** What is due by tomorrow and routine can be moved or skipped; a calibration belongs to the meter, and any visit is a
 * look-in. */
export const canPutOff = (task: Task, child: boolean) =>
  !child &&
  task.days_late >= -1 &&
  (!!task.rule || (!!task.check && task.check !== 'look_in' && task.check !== 'calibrate'))

/** A task that can be moved, by what it is. */
export type Movable = Pick<Task, 'code' | 'name' | 'check' | 'rule'>

export const choreOf = (task: Movable): Schemas['Chore'] =>
  task.rule ? { of: 'rule', rule: task.rule, name: task.name } : { of: 'check', check: task.check! }

export const dayName = (on: string) =>
  new Date(`${on}T12:00`).toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric', month: 'short' })
