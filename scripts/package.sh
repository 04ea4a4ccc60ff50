#!/usr/bin/env bash
# Packs what is published, installs it in an empty folder, and uses it there as others do: the program on the demo’s zones, the library from strict TypeScript.
set -euo pipefail
cd "$(dirname "$0")/.."
root=$PWD
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
npm pack --silent --pack-destination "$folder" >/dev/null
cd "$folder"
mv ./*.tgz package.tgz
cat >package.json <<'END'
{ "name": "somebody", "private": true, "type": "module" }
END
npm install --no-audit --no-fund --loglevel=error ./package.tgz >/dev/null
unset NODE_EXTRA_CA_CERTS
npx --no-install bramblefront --version
cp -r node_modules/bramblefront/demo .
(cd demo && npx --no-install bramblefront check lakepass.example --fail-on error >/dev/null)
cat >use.ts <<'END'
import { type CheckResult, check, checkHost, type Finding, keepTogether, parseZoneFile, rdataText, type ZoneRecord } from 'bramblefront'

const { records } = parseZoneFile('$TTL 60\n@ SOA ns hostmaster 1 2 3 4 5\nwww A 192.0.2.1\n', { zone: 'ferry.example' })
const www: ZoneRecord | undefined = records.find(({ owner }) => owner === 'www.ferry.example.')
if (!www || rdataText(www.type, www.data) !== '192.0.2.1') throw new Error('parseZoneFile')
const result: CheckResult = await check(keepTogether([{ input: 'www CNAME gone\n', zone: 'ferry.example' }]))
const finding: Finding | undefined = result.findings.find(({ rule }) => rule === 'cname/target-missing')
if (!finding) throw new Error('check')
const spf = await checkHost({ ip: '192.0.2.1', helo: 'h.example', mailFrom: 'a@b.example', lookup: () => ({ data: ['v=spf1 -all'] }) })
if (spf.result !== 'fail') throw new Error('checkHost')
END
cat >tsconfig.json <<'END'
{ "compilerOptions": { "strict": true, "target": "ES2023", "module": "NodeNext", "moduleResolution": "NodeNext", "types": ["node"], "outDir": "out" }, "include": ["use.ts"] }
END
mkdir -p node_modules/@types
ln -s "$root/node_modules/@types/node" node_modules/@types/node
ln -s "$root/node_modules/undici-types" node_modules/undici-types
"$root/node_modules/.bin/tsc" -p .
node out/use.js
echo 'The package, installed by itself, runs and type-checks.'
