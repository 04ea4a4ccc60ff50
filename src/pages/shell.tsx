/** What every page is: one file by itself, that fetches nothing and runs nothing but its own script. Whatever is put into it is escaped, as text or as an attribute. */
import { createHash } from 'node:crypto'
import type { ComponentChildren } from 'preact'
import { renderToString } from 'preact-render-to-string'
import { printableOutput } from '../core/printable.ts'
import { STYLE } from './style.ts'

export interface PageParts {
  title: string
  /** What stands below the title: one line. */
  subtitle: string
  children: ComponentChildren
  /** Runs once the page is there. It is the program’s own text: nothing from outside goes into it. */
  script?: string
  /** A style sheet of its own, behind the one of all pages. */
  style?: string
  /** What to do next. */
  footer: ComponentChildren
}

/** By what a page of ours is known again. */
export const GENERATOR = 'Bramblefront'

const sourceOf = (text: string): string => `'sha256-${createHash('sha256').update(text).digest('base64')}'`

/** The page as one HTML document. */
export function pageHtml({ title, subtitle, children, script = '', style = '', footer }: PageParts): string {
  const styles = STYLE + style
  const policy = [
    "default-src 'none'",
    `style-src ${sourceOf(styles)}`,
    script === '' ? '' : `script-src ${sourceOf(script)}`,
    "base-uri 'none'",
    "form-action 'none'",
  ]
  const page = (
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta http-equiv="Content-Security-Policy" content={policy.filter((each) => each !== '').join('; ')} />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <meta name="color-scheme" content="light dark" />
        <meta name="referrer" content="no-referrer" />
        <meta name="generator" content={GENERATOR} />
        <title>{title}</title>
        <style {...raw(styles)} />
      </head>
      <body>
        <header>
          <h1>{title}</h1>
          <p>{subtitle}</p>
        </header>
        <main>{children}</main>
        <footer>{footer}</footer>
        {script === '' ? null : <script {...raw(script)} />}
      </body>
    </html>
  )
  return printableOutput(`<!doctype html>\n${renderToString(page)}\n`, false)
}

/** The text of an element that is no HTML inside: the program’s own style and script. */
function raw(text: string): { dangerouslySetInnerHTML: { __html: string } } {
  if (/<\/(?:style|script)|<!--/i.test(text)) throw new Error('a style or script would end itself')
  return { dangerouslySetInnerHTML: { __html: text } }
}
