/** The title of the page, as the tab shows it. */
import { ref } from 'vue'

export const pageTitle = ref('Mopsel')

/** What cannot wait, for the tab; nothing where all can. */
export const pressingTitle = ref('')
