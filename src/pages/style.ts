/** How all pages look: on a screen, light and dark, on a phone, and on paper. */
export const STYLE = `
:root {
  --paper: #fbfaf7; --card: #ffffff; --ink: #22262a; --soft: #565d63; --line: #d5d1c7; --field: #f1efe8;
  --lake: #1f5f7a; --lake-ink: #ffffff; --good: #2e6b2e; --warn: #8a5a00; --bad: #a02419;
}
@media (prefers-color-scheme: dark) {
  :root {
    --paper: #171a1d; --card: #1f2327; --ink: #e8e6e0; --soft: #a9b0b6; --line: #3a4046; --field: #2a2f34;
    --lake: #8cc4de; --lake-ink: #10202a; --good: #8fd08f; --warn: #e5b964; --bad: #f2a097;
  }
}
* { box-sizing: border-box; }
body {
  margin: 0 auto; padding: 1.5rem 1rem 3rem; max-width: 68rem; background: var(--paper); color: var(--ink);
  font: 1rem/1.5 system-ui, sans-serif; -webkit-text-size-adjust: 100%;
}
h1 { margin: 0; font-size: 1.6rem; line-height: 1.25; overflow-wrap: anywhere; }
header p { margin: .25rem 0 0; color: var(--soft); }
header { margin-bottom: 1.25rem; }
footer { margin-top: 2rem; color: var(--soft); font-size: .9rem; }
code { font: .95em/1.45 ui-monospace, 'DejaVu Sans Mono', monospace; overflow-wrap: anywhere; }
button {
  font: inherit; font-size: .85rem; color: var(--lake); background: transparent; border: 1px solid var(--lake);
  border-radius: .35rem; padding: .15rem .6rem; min-height: 2rem; cursor: pointer;
}
button:hover { background: var(--lake); color: var(--lake-ink); }
:focus-visible { outline: 3px solid var(--lake); outline-offset: 2px; }
.unseen { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); white-space: nowrap; }
@media print {
  :root {
    --paper: #fff; --card: #fff; --ink: #000; --soft: #333; --line: #999; --field: #fff; --lake: #000; --good: #000; --warn: #000; --bad: #000;
  }
  body { max-width: none; padding: 0; font-size: 10.5pt; }
  button { display: none; }
}
`
