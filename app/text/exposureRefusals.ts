import type { ExposureRefusal } from '@rubato/core/interchange'
import { quoted } from './quoted'

/** Which row of a CSV is wrong, why, and what now. Nothing was taken. */
export function wordExposureRefusal(refusal: ExposureRefusal): string {
  switch (refusal.code) {
    case 'no-header':
      return `The first row must be: frame,level,drawing. It is ${refusal.found === '' ? 'empty' : quoted(refusal.found)}.`
    case 'no-rows':
      return 'There is no row under the header, so there is nothing to take.'
    case 'broken-row':
      return `Row ${refusal.row} has ${refusal.cells} ${refusal.cells === 1 ? 'value' : 'values'}; it must have three: frame, level, drawing.`
    case 'no-frame':
      return `Row ${refusal.row}: ${refusal.found === '' ? 'there is no frame' : `${quoted(refusal.found)} is no frame of this shot`}. Frames go from 0 to ${refusal.last}.`
    case 'no-level':
      return `Row ${refusal.row}: this shot has no level ${quoted(refusal.level)}. Name one of its levels as the sheet does.`
    case 'many-levels':
      return `Row ${refusal.row}: several levels are called ${quoted(refusal.level)}. Give them names of their own first.`
    case 'no-drawing':
      return `Row ${refusal.row}: ${quoted(refusal.level)} has no drawing ${quoted(refusal.drawing)}. Make it first, or leave the drawing empty to show nothing.`
    case 'twice':
      return `Row ${refusal.row}: frame ${refusal.frame} of ${quoted(refusal.level)} is there twice.`
  }
}
