/** Findings as a SARIF 2.1.0 log, for pipelines and code-review pages. */
import { isAbsolute, relative, sep } from 'node:path'
import { pathToFileURL } from 'node:url'
import { ruleOf } from '../../core/rules/catalogue.ts'
import type { Finding, Severity } from '../../core/rules/rule.ts'
import type { Format } from './format.ts'
import { entries, indented } from './json.ts'

const LEVEL: Record<Severity, string> = { error: 'error', warning: 'warning', advice: 'note' }

/** A file as a URI seen from `root`; one outside it absolute. */
function uriOf(file: string, root: string): { uri: string; uriBaseId?: string } {
  const path = relative(root, isAbsolute(file) ? file : `${process.cwd()}${sep}${file}`)
  if (path.startsWith('..') || isAbsolute(path)) return { uri: pathToFileURL(file).href }
  return { uri: path.split(sep).map(encodeURIComponent).join('/'), uriBaseId: 'WORKSPACE' }
}

function ruleMeta(code: string, level: string): object {
  const rule = ruleOf(code)
  if (!rule) return { id: code, shortDescription: { text: 'unreadable entry' }, defaultConfiguration: { level } }
  return {
    id: code,
    shortDescription: { text: rule.title },
    fullDescription: { text: rule.why },
    help: { text: `${rule.remedy}\nSource: ${rule.source}` },
    defaultConfiguration: { level: LEVEL[rule.severity] },
    properties: { source: rule.source },
  }
}

/** One run of the log, with the rules that it speaks of; excepted findings are there as suppressed. */
export const FORMAT: Format = {
  *findings({ findings, excepted, version, root }) {
    const levels = new Map<string, string>()
    for (const { rule, severity } of findings) levels.set(rule, levels.get(rule) ?? LEVEL[severity])
    for (const { finding } of excepted) levels.set(finding.rule, levels.get(finding.rule) ?? 'note')
    const codes = [...levels.keys()].sort()
    const places = new Map(codes.map((code, i) => [code, i]))
    const driver = {
      name: 'bramblefront',
      semanticVersion: version,
      rules: codes.map((code) => ruleMeta(code, levels.get(code)!)),
    }
    yield `{\n  "version": "2.1.0",\n  "runs": [\n    {\n      "tool": ${indented({ driver }, '      ')},\n`
    yield `      "originalUriBaseIds": ${indented({ WORKSPACE: { uri: `${pathToFileURL(root).href}/` } }, '      ')},\n`
    yield '      "columnKind": "unicodeCodePoints",\n      "results": '
    const all = function* (): Generator<object> {
      for (const finding of findings) yield resultOf(finding, places.get(finding.rule)!, root)
      for (const { finding, reason } of excepted) yield resultOf(finding, places.get(finding.rule)!, root, reason)
    }
    yield* entries(all(), (each) => each, '      ')
    yield '\n    }\n  ]\n}\n'
  },
}

function resultOf(finding: Finding, ruleIndex: number, root: string, reason?: string): object {
  const { rule, severity, file, line, column, length, message, effect, fix, owner, type } = finding
  return {
    ruleId: rule,
    ruleIndex,
    level: LEVEL[severity],
    message: { text: [`${message}.`, effect, ...fix.map((each) => `→ ${each}`)].join('\n') },
    locations: [
      {
        physicalLocation: {
          artifactLocation: uriOf(file, root),
          region: { startLine: line, startColumn: column, ...(length > 0 ? { endColumn: column + length } : {}) },
        },
        logicalLocations: [{ fullyQualifiedName: [owner, type].filter(Boolean).join(' ') }],
      },
    ],
    ...(reason === undefined ? {} : { suppressions: [{ kind: 'external', justification: reason }] }),
  }
}
