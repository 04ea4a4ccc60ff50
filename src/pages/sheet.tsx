/** A sheet of what to type into a web form: to print, or to send to whoever has the password. */
import { bare, type Name } from '../core/names/name.ts'
import { typeText } from '../core/records/types.ts'
import type { Action, ActionRow } from '../core/sheet/changes.ts'
import { SCRIPT, SHEET_STYLE } from './sheet-parts.ts'
import { pageHtml } from './shell.tsx'

export interface SheetPage {
  zone: Name
  /** The label of the style. */
  style: string
  /** When it was made, in words. */
  made: string
  /** What it was compared with, in words; undefined where it holds every row. */
  compared?: string
  rows: readonly ActionRow[]
}

const VERBS: Record<Action, string> = { enter: 'Enter', change: 'Change', delete: 'Delete', keep: 'Keep' }

export function sheetPage({ zone, style, made, compared, rows }: SheetPage): string {
  const name = bare(zone)
  const counts = (['delete', 'change', 'enter'] as const)
    .map((action) => [action, rows.filter((row) => row.action === action).length] as const)
    .filter(([, count]) => count > 0)
    .map(([action, count]) => `${count} to ${action}`)
  const facts = [
    `Made ${made}`,
    compared === undefined ? 'every record set of the zone' : `compared with ${compared}`,
    `form style ${style}`,
  ]
  return pageHtml({
    title: `DNS records for ${name}`,
    subtitle: `${facts.join(' · ')}.`,
    style: SHEET_STYLE,
    script: SCRIPT,
    footer: (
      <p>
        Type each value exactly as it stands here. When all is typed, whoever looks after the zone can check it with{' '}
        <code>bramblefront sheet {name} --tick</code>.
      </p>
    ),
    children: (
      <>
        <p class="count">
          <strong>{rows.length === 0 ? 'Nothing to do.' : `${counts.join(', ')}.`}</strong>{' '}
          {rows.length === 0 ? null : <output id="done" for={rows.map((_, i) => `row-${i + 1}`).join(' ')} />}
        </p>
        <ol class="rows">
          {rows.map((row, i) => (
            <Row
              key={i}
              row={row}
              id={`row-${i + 1}`}
              before={row.before === rows[i - 1]?.before ? null : row.before}
            />
          ))}
        </ol>
        <p class="unseen" role="status" id="copied" />
      </>
    ),
  })
}

function Row({ row, id, before }: { row: ActionRow; id: string; before: readonly string[] | null }) {
  const { action, owner, type, fields, hints } = row
  const what = `${typeText(type)} at ${bare(owner)}`
  return (
    <li class={`row ${action}`}>
      <label class="head">
        <input type="checkbox" id={id} />
        <span>
          <b>{VERBS[action]}</b> {what}
        </span>
      </label>
      <dl>
        {fields.map(({ name, label, value }) => (
          <div key={label} class={value.length > 40 ? 'field long' : 'field'}>
            <dt>{label}</dt>
            <dd>
              {value === '' ? <i>leave empty</i> : <code>{value}</code>}
              {value === '' || name === 'type' || action === 'delete' ? null : (
                <button type="button" class="copy">
                  Copy
                  <span class="unseen">
                    {' '}
                    {label} of {what}
                  </span>
                </button>
              )}
            </dd>
          </div>
        ))}
      </dl>
      {before && action === 'change' ? (
        <p class="small">
          Now there:{' '}
          {before.map((value) => (
            <code key={value}>{value} </code>
          ))}
        </p>
      ) : null}
      {hints.length === 0 ? null : (
        <ul class="small">
          {hints.map((hint) => (
            <li key={hint}>{hint}</li>
          ))}
        </ul>
      )}
    </li>
  )
}
