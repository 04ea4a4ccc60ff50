/** The page of a sheet, as it is written and as a browser has it. */
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { sheetPage } from '../../src/pages/sheet.tsx'
import { folderWith, HEAD, run } from '../cli/program.ts'
import { mayLeaveOut, obstacles, opened } from './browser.ts'

const ZONE = 'hollowmere.example'
const KEY = `v=DKIM1; p=${'A'.repeat(380)}`
const ZONES = {
  'a.zone': `${HEAD}www A 192.0.2.1\n@ MX 10 mail\n@ MX 20 <b>"\n@ TXT "\\<script>alert(1)</script>" "&amp;"\nk._domainkey TXT "${KEY.slice(0, 200)}" "${KEY.slice(200)}"\nmail A 192.0.2.25\n`,
  'b.zone': `${HEAD}www A 192.0.2.9\n@ MX 10 mail\nold A 192.0.2.8\nmail A 192.0.2.25\n`,
}
/** Everything that has to be done: enter, change, delete. */
async function written(): Promise<{ folder: string; file: string }> {
  const folder = folderWith(ZONES)
  const args = ['sheet', 'a.zone', '--zone', ZONE, '--changes', '--with', 'b.zone', '--style', 'blank-apex']
  expect((await run(folder, ...args, '--page', 'sheet.html')).status).toBe(1)
  return { folder, file: join(folder, 'sheet.html') }
}

test('it holds the rows and nothing that runs but its own script; a file that is not ours is left alone', async () => {
  const { folder, file } = await written()
  const html = readFileSync(file, 'utf8')
  expect(html).toContain("default-src 'none'")
  expect(html).not.toMatch(/<script>alert|\son\w+=|javascript:|https?:|'unsafe/)
  expect(html.match(/<script/g)).toHaveLength(1)
  const call = ['sheet', 'a.zone', '--zone', ZONE, '--page']
  expect((await run(folder, ...call, 'sheet.html')).status).toBeLessThan(2)
  writeFileSync(join(folder, 'mine.html'), '<p>mine</p>')
  for (const other of ['mine.html', 'nowhere/sheet.html', 'a.zone', '.'])
    expect([other, (await run(folder, ...call, other)).status]).toEqual([other, 2])
  expect(readFileSync(join(folder, 'mine.html'), 'utf8')).toBe('<p>mine</p>')
})

test('whatever is put into it stays text', () => {
  const hostile = '"><img src=x onerror=alert(1)><!--</script>'
  const html = sheetPage({
    zone: `${hostile}.`,
    style: hostile,
    made: hostile,
    compared: hostile,
    rows: [
      {
        action: 'change',
        owner: `${hostile}.`,
        type: 16,
        fields: [{ name: 'value', label: hostile, value: hostile }],
        hints: [hostile],
        before: [hostile],
      },
    ],
  })
  expect(html).not.toContain('<img')
  expect(html.match(/<\/script>/g)).toHaveLength(1)
})

describe.skipIf(mayLeaveOut())('in a browser', () => {
  test.each([
    [1280, 'light'],
    [1280, 'dark'],
    [390, 'light'],
    [390, 'dark'],
  ] as const)(
    '%i wide and %s: nothing stands in anybody’s way, and nothing runs over the edge',
    async (width, scheme) => {
      const { page, troubles } = await opened((await written()).file, { width, scheme })
      expect(await obstacles(page)).toEqual([])
      expect(await page.evaluate('document.documentElement.scrollWidth <= innerWidth')).toBe(true)
      expect(troubles).toEqual([])
    },
  )

  test('rows are ticked and counted, and are so when it is opened again; values are copied', async () => {
    const { file } = await written()
    const { page, troubles } = await opened(file)
    const rows = await page.locator('.row').count()
    expect(await page.locator('#done').textContent()).toBe(`0 of ${rows} rows are ticked.`)
    await page.getByLabel('Change A at www.hollowmere.example').check()
    await page.getByLabel(/Delete A at old/).check()
    expect(await page.locator('#done').textContent()).toBe(`2 of ${rows} rows are ticked.`)
    await page.reload()
    expect(await page.locator('#done').textContent()).toBe(`2 of ${rows} rows are ticked.`)
    await page.context().grantPermissions(['clipboard-read', 'clipboard-write'])
    await page.getByRole('button', { name: 'Copy Content of TXT at k._domainkey.hollowmere.example' }).click()
    expect(await page.evaluate('navigator.clipboard.readText()')).toBe(`"${KEY}"`)
    expect(await page.locator('#copied').textContent()).toBe('Copied.')
    expect(troubles).toEqual([])
  })

  test('on paper there are no buttons, and no row is cut in two', async () => {
    const { page } = await opened((await written()).file)
    await page.emulateMedia({ media: 'print' })
    expect(await page.getByRole('button').count()).toBe(0)
    expect(await page.evaluate('getComputedStyle(document.querySelector(".row")).breakInside')).toBe('avoid')
  })
})
