import type { MarkMeaning } from '@rubato/core/document'

/** What marks on the ruler mean, as the artist reads it. */
export const MEANING_NAMES: Readonly<Record<MarkMeaning, string>> = { note: 'Note', voice: 'Voice', sound: 'Sound', change: 'Change', mend: 'Mend' }
