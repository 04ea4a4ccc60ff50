/** Pages in a real browser: Debian’s Chromium, headless. */
import { existsSync } from 'node:fs'
import { pathToFileURL } from 'node:url'
import axe from 'axe-core'
import { type Browser, chromium, type Page } from 'playwright-core'
import { afterAll } from 'vitest'

const CHROMIUM = '/usr/bin/chromium'

/** Whether a test may be left out, since there is no browser; never in CI. */
export const mayLeaveOut = (): boolean => !existsSync(CHROMIUM) && !process.env.CI

let browser: Promise<Browser> | undefined
afterAll(async () => (await browser)?.close())

export interface Opened {
  page: Page
  /** What the page’s own policy forbade, what it said on its console, and what it asked the network for. */
  troubles: string[]
}

/** Opens a file, as whoever was sent it does. */
export async function opened(file: string, look: { width?: number; scheme?: 'light' | 'dark' } = {}): Promise<Opened> {
  browser ??= chromium.launch({ executablePath: CHROMIUM, args: ['--no-sandbox'] })
  const context = await (await browser).newContext({
    viewport: { width: look.width ?? 1280, height: 800 },
    colorScheme: look.scheme ?? 'light',
  })
  const page = await context.newPage()
  const troubles: string[] = []
  page.on('console', (message) => troubles.push(message.text()))
  page.on('pageerror', (error) => troubles.push(String(error)))
  page.on('request', (request) => {
    if (request.url() !== pathToFileURL(file).href) troubles.push(request.url())
  })
  await page.goto(pathToFileURL(file).href)
  return { page, troubles }
}

/** What stands in the way of people who see, hear or use it otherwise: by axe’s rules for WCAG 2.2 AA. */
export async function obstacles(page: Page): Promise<string[]> {
  await page.evaluate(axe.source)
  const { violations } = await page.evaluate(() =>
    (globalThis as unknown as { axe: typeof axe }).axe.run({
      runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'],
    }),
  )
  return violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html).join(' ')}`)
}
