import type { Task } from '../api/client'

/** What is due by tomorrow and routine can be moved or skipped; a calibration belongs to the meter, and any visit is a
 * look-in. */
export const canPutOff = (task: Task, child: boolean) =>
  !child &&
  task.days_late >= -1 &&
  (!!task.rule || (!!task.check && task.check !== 'look_in' && task.check !== 'calibrate'))
