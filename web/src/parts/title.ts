/** The title of the page, as the tab shows it. */
import { ref } from 'vue'

export const pageTitle = ref('Mopsel')
