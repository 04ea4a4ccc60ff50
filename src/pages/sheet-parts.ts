/** The style and the script of the page of a sheet. */
export const SHEET_STYLE = `
.count { margin: 0 0 1rem; }
.rows { list-style: none; margin: 0; padding: 0; }
.row { background: var(--card); border: 1px solid var(--line); border-left: .35rem solid var(--lake); border-radius: .5rem; padding: .75rem 1rem; margin: 0 0 .75rem; break-inside: avoid; }
.row.change { border-left-color: var(--warn); }
.row.delete { border-left-color: var(--bad); }
.row:has(:checked) { border-left-color: var(--good); }
.row:has(:checked) dl { opacity: .6; }
.head { display: flex; gap: .6rem; align-items: center; overflow-wrap: anywhere; min-height: 2rem; cursor: pointer; }
.head input { width: 1.35rem; height: 1.35rem; margin: 0; flex: none; accent-color: var(--good); }
.change .head b { color: var(--warn); }
.delete .head b { color: var(--bad); }
dl { display: flex; flex-wrap: wrap; gap: .5rem .75rem; margin: .5rem 0 0; }
.field { background: var(--field); border-radius: .35rem; padding: .35rem .6rem; flex: 0 1 auto; min-width: 5.5rem; }
.field.long { flex: 1 1 22rem; }
dt { color: var(--soft); font-size: .8rem; line-height: 1.3; }
dd { margin: 0; display: flex; min-height: 2rem; gap: .75rem; align-items: center; justify-content: space-between; }
dd code { white-space: pre-wrap; min-width: 0; }
dd button { flex: none; }
.small { margin: .5rem 0 0; color: var(--soft); font-size: .875rem; }
ul.small { padding-left: 1.1rem; }
@media (max-width: 40rem) {
  .row { padding: .65rem .75rem; }
  .field, .field.long { flex: 1 1 100%; }
}
@media print {
  .row { border-width: 1px; border-left-width: 1px; padding: .4rem .6rem; margin-bottom: .35rem; }
  .row:has(:checked) dl { opacity: 1; }
  .field { padding: 0; flex: 0 1 auto; }
}
`

/** Counts what is ticked and remembers it on this machine, where the browser lets it; copies a value. */
export const SCRIPT = `
const boxes = [...document.querySelectorAll('input[type=checkbox]')]
const done = document.getElementById('done')
const copied = document.getElementById('copied')
const key = document.title + ' ' + document.querySelector('header p').textContent
const remembered = () => { try { return JSON.parse(localStorage.getItem(key)) || [] } catch { return [] } }
const count = () => {
  const ticked = boxes.filter((box) => box.checked)
  if (done) done.textContent = ticked.length + ' of ' + boxes.length + ' rows are ticked.'
  try { localStorage.setItem(key, JSON.stringify(ticked.map((box) => box.id))) } catch {}
}
for (const id of remembered()) { const box = boxes.find((each) => each.id === id); if (box) box.checked = true }
for (const box of boxes) box.addEventListener('change', count)
count()
const copy = async (code) => {
  try { await navigator.clipboard.writeText(code.textContent); return true } catch {}
  const range = document.createRange()
  range.selectNodeContents(code)
  const selection = getSelection()
  selection.removeAllRanges()
  selection.addRange(range)
  return document.execCommand('copy')
}
for (const button of document.querySelectorAll('button.copy')) {
  const word = button.firstChild
  button.addEventListener('click', async () => {
    const isCopied = await copy(button.parentElement.querySelector('code'))
    word.textContent = isCopied ? 'Copied' : 'Selected'
    copied.textContent = isCopied ? 'Copied.' : 'Selected: copy it with the keyboard.'
    setTimeout(() => { word.textContent = 'Copy' }, 1500)
  })
}
`
