// Draws pages in headless Chromium: node scripts/page-shot.mjs PAGE.html PICTURE.png [width] [height] [dark]. Needs Debian’s package chromium.
import { pathToFileURL } from 'node:url'
import { chromium } from 'playwright-core'

const [page, picture, width = '1280', height = '800', scheme = 'light'] = process.argv.slice(2)
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] })
try {
  const context = await browser.newContext({
    viewport: { width: Number(width), height: Number(height) },
    colorScheme: scheme === 'dark' ? 'dark' : 'light',
  })
  const tab = await context.newPage()
  await tab.goto(pathToFileURL(page).href)
  await tab.screenshot({ path: picture })
} finally {
  await browser.close()
}
