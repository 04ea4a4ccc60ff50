/** Findings as a SARIF 2.1.0 log, for pipelines and code-review pages. */
import { isAbsolute, relative, sep } from 'node:path'
import { pathToFileURL } from 'node:url'
import { ruleOf } from '../../core/rules/catalogue.ts'
import type { CheckResult } from '../../core/rules/engine.ts'
import type { Finding, Severity } from '../../core/rules/rule.ts'

const LEVEL: Record<Severity, string> = { error: 'error', warning: 'warning', advice: 'note' }

/** A file as a URI seen from `root`; one outside it absolute. */
function uriOf(file: string, root: string): { uri: string; uriBaseId?: string } {
  const path = relative(root, isAbsolute(file) ? file : `${process.cwd()}${sep}${file}`)
  if (path.startsWith('..') || isAbsolute(path)) return { uri: pathToFileURL(file).href }
  return { uri: path.split(sep).map(encodeURIComponent).join('/'), uriBaseId: 'WORKSPACE' }
}

function ruleMeta(code: string, level: string): object {
  const rule = ruleOf(code)
  if (!rule)
    return { id: code, shortDescription: { text: 'what the reader could not read' }, defaultConfiguration: { level } }
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
export function sarif(
  findings: readonly Finding[],
  excepted: CheckResult['excepted'],
  version: string,
  root: string,
): object {
  const codes = [...new Set([...findings, ...excepted.map(({ finding }) => finding)].map((each) => each.rule))].sort()
  const levels = new Map(findings.map((each) => [each.rule, LEVEL[each.severity]]))
  const result = (finding: Finding, reason?: string): object => {
    const { rule, severity, file, line, column, length, message, effect, fix, owner, type } = finding
    return {
      ruleId: rule,
      ruleIndex: codes.indexOf(rule),
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
  return {
    version: '2.1.0',
    runs: [
      {
        tool: {
          driver: {
            name: 'bramblefront',
            semanticVersion: version,
            rules: codes.map((code) => ruleMeta(code, levels.get(code) ?? 'note')),
          },
        },
        originalUriBaseIds: { WORKSPACE: { uri: `${pathToFileURL(root).href}/` } },
        columnKind: 'unicodeCodePoints',
        results: [
          ...findings.map((each) => result(each)),
          ...excepted.map(({ finding, reason }) => result(finding, reason)),
        ],
      },
    ],
  }
}
