/** Who reads on this device: the person last picked, whose own units are used where they have some. */
import { lastPicked } from '../parts/recorder'

export const readerQuery = () => (lastPicked.value ? { by: lastPicked.value } : {})
