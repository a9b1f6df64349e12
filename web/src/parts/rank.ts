/** What waits for nothing: danger to people, and what plants last only hours for. */
import type { Task } from '../api/client'

export const isNow = (task: Pick<Task, 'rank'>) => task.rank === 'people' || task.rank === 'hours'
