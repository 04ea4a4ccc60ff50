import type { Rule } from '../rule.ts'
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
import { dkimRevoked } from './revoked.ts'
import { dkimSameKey } from './same-key.ts'
import { dkimService } from './service.ts'
import { dkimSeveral } from './several.ts'
import { dkimSyntax } from './syntax.ts'
import { dkimTesting } from './testing.ts'
import { dkimWrongPlace } from './wrong-place.ts'

/** The rules of the family `dkim/`. */
export const DKIM: readonly Rule[] = [
  dkimAliasWithoutKey,
  dkimEscapedSemicolon,
  dkimHash,
  dkimKeyMissing,
  dkimKeyShort,
  dkimKeyType,
  dkimKeyUnreadable,
  dkimNone,
  dkimObsoleteTag,
  dkimPrivateKeyDiffers,
  dkimPrivateKeyUnreadable,
  dkimQuotesInside,
  dkimRevoked,
  dkimSameKey,
  dkimService,
  dkimSeveral,
  dkimSyntax,
  dkimTesting,
  dkimWrongPlace,
]
