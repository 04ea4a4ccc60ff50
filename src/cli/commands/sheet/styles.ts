/** Styles of web forms, by their labels. */
import { STYLES, type Style } from '../../../core/sheet/style.ts'
import { nearest } from '../../../workspace/nearest.ts'
import { Trouble } from '../../../workspace/trouble.ts'

/** The style with this label: one of bramblefront.yaml, or one that comes along. Trouble where there is none. */
export function styleNamed(label: string, own: readonly Style[] = []): Style {
  const styles = [...own, ...STYLES]
  const style = styles.find((each) => each.label === label)
  if (style) return style
  const known = styles.map((each) => each.label)
  throw new Trouble(`there is no style ${label} of web forms; ${nearest(label, known, 'styles')}`)
}
