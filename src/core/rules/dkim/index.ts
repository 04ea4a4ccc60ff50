import type { Rule } from '../rule.ts'
import { textRules } from '../shared/text-rules.ts'
import { dkimAliasWithoutKey } from './alias-without-key.ts'
import { dkimEscapedSemicolon } from './escaped-semicolon.ts'
import { dkimHash } from './hash.ts'
import { dkimKeyMissing } from './key-missing.ts'
import { dkimKeyShort } from './key-short.ts'
import { dkimKeyType } from './key-type.ts'
import { dkimKeyUnreadable } from './key-unreadable.ts'
import { dkimNone } from './none.ts'
import { dkimObsoleteTag } from './obsolete-tag.ts'
import { dkimPrivateKeyDiffers } from './private-key-differs.ts'
import { dkimPrivateKeyUnreadable } from './private-key-unreadable.ts'
import { dkimQuotesInside } from './quotes-inside.ts'
import { KEYS } from './reading.ts'
import { dkimRevoked } from './revoked.ts'
import { dkimSameKey } from './same-key.ts'
import { dkimService } from './service.ts'
import { dkimSeveral } from './several.ts'
import { dkimSyntax } from './syntax.ts'
import { dkimTesting } from './testing.ts'
import { dkimWrongPlace } from './wrong-place.ts'

/** The rules of the family `dkim/`. */
export const DKIM: readonly Rule[] = [
  ...textRules(KEYS, [
    dkimEscapedSemicolon,
    dkimHash,
    dkimKeyMissing,
    dkimKeyShort,
    dkimKeyType,
    dkimKeyUnreadable,
    dkimObsoleteTag,
    dkimQuotesInside,
    dkimRevoked,
    dkimService,
    dkimSyntax,
    dkimTesting,
  ]),
  dkimAliasWithoutKey,
  dkimNone,
  dkimPrivateKeyDiffers,
  dkimPrivateKeyUnreadable,
  dkimSameKey,
  dkimSeveral,
  dkimWrongPlace,
]
