import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { decodeMessage } from '../../../src/core/message/decode.ts'
import { encodeMessage, queryOctets } from '../../../src/core/message/encode.ts'
import { answersQuestion, emptyMessage, type Message } from '../../../src/core/message/message.ts'
import { nameToWire, wireToName } from '../../../src/core/names/name.ts'
import { parseRdata } from '../../../src/core/records/rdata.ts'
import { parseType } from '../../../src/core/records/types.ts'

const hex = (text: string): Uint8Array => new Uint8Array(Buffer.from(text.replace(/\s/g, ''), 'hex'))
const decoded = (octets: Uint8Array): Message => {
  const message = decodeMessage(octets)
  if ('garbled' in message) throw new Error(message.garbled)
  return message
}
function record(owner: string, type: string, text: string) {
  const parsed = parseRdata(parseType(type)!, text, nameToWire('.') as Uint8Array)
  return { owner, type: parseType(type)!, class: 1, ttl: 60, data: (parsed as { wire: Uint8Array }).wire }
}

const queryMessage = (id: number, name: string, type: number): Message => decoded(queryOctets(id, name, type))

test('a question as it goes over the wire', () => {
  expect(decoded(queryOctets(1, 'a.example.', 15, { recursion: false, checkingDisabled: true, plain: true }))).toEqual({
    ...emptyMessage(1),
    checkingDisabled: true,
    questions: [{ name: 'a.example.', type: 15, class: 1 }],
  })
  expect(Buffer.from(queryOctets(0x1234, 'a.example.', 15)).toString('hex')).toBe(
    '1234010000010000000000010161076578616d706c6500000f0001' + '00002904d0000000000000',
  )
})

test('the compressed names of RFC 1035 §4.1.4: F.ISI.ARPA, FOO.F.ISI.ARPA, ARPA, the root', () => {
  // Its layout, moved to where a message's owners stand: each owner with an empty record of an unknown type.
  const body =
    '01 46 03 495349 04 41525041 00 ff00 0001 00000000 0000' +
    '03 464f4f c00c ff00 0001 00000000 0000' +
    'c012 ff00 0001 00000000 0000' +
    '00 ff00 0001 00000000 0000'
  const message = decoded(hex('0001 8400 0000 0004 0000 0000' + body))
  expect(message.answers.map((each) => each.owner)).toEqual(['F.ISI.ARPA.', 'FOO.F.ISI.ARPA.', 'ARPA.', '.'])
  expect(Buffer.from(encodeMessage(message)).toString('hex')).toBe(
    Buffer.from(hex('0001 8400 0000 0004 0000 0000' + body)).toString('hex'),
  )
})

describe('what is written is read again', () => {
  const owners = fc.constantFrom('a.example.', 'b.a.example.', 'example.', 'A.EXAMPLE.', 'x\\.y.example.', '.')
  const data = fc.constantFrom(
    ['A', '192.0.2.1'],
    ['MX', '10 a.example.'],
    ['SOA', 'ns.example. b.a.example. 1 2 3 4 5'],
    ['SRV', '1 2 3 c.example.'],
    ['TXT', '"one" "two"'],
    ['CNAME', 'b.a.example.'],
    ['TYPE65280', '\\# 1 ff'],
  )
  test('any message', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(owners, data), { maxLength: 8 }),
        fc.integer({ min: 0, max: 0xfff }),
        fc.boolean(),
        (records, rcode, edns) => {
          const message: Message = {
            ...emptyMessage(7),
            response: true,
            rcode: edns ? rcode : rcode & 15,
            questions: [{ name: 'q.example.', type: 1, class: 1 }],
            answers: records.map(([owner, [type, text]]) => record(owner, type, text)),
          }
          if (edns)
            message.edns = { size: 1232, dnssecOk: true, options: [{ code: 15, data: new Uint8Array([0, 18]) }] }
          const again = decoded(encodeMessage(message))
          // A compressed name takes the spelling of the one it points to.
          const folded = (m: Message) =>
            JSON.stringify(m, (_k, v) =>
              v instanceof Uint8Array
                ? Buffer.from(v).toString('latin1').toLowerCase()
                : typeof v === 'string'
                  ? v.toLowerCase()
                  : v,
            )
          expect(folded(again)).toBe(folded(message))
        },
      ),
    )
  })

  test('too much for UDP: whole sets go from the end, the flag is set, and the rest can be read', () => {
    const answers = Array.from({ length: 40 }, (_, i) =>
      record('a.example.', 'TXT', `"${String(i).padStart(60, 'x')}"`),
    )
    const additional = [record('b.example.', 'A', '192.0.2.1')]
    const message: Message = { ...queryMessage(1, 'a.example.', 16), response: true, answers, additional }
    const cut = decoded(encodeMessage(message, 1232))
    expect([cut.truncated, cut.answers.length, cut.edns?.size]).toEqual([true, 0, 1232])
    const fits = decoded(
      encodeMessage(
        {
          ...message,
          answers: answers.slice(0, 10),
          additional: answers.map((each, i) => ({ ...each, owner: `n${i}.example.` })),
        },
        1232,
      ),
    )
    expect([fits.truncated, fits.answers.length]).toEqual([false, 10])
    expect(encodeMessage({ ...message, answers: answers.slice(0, 16) }, 1232).length).toBeLessThanOrEqual(1232)
  })
})

describe('no octets make it fail, hang or believe', () => {
  test('random octets, and messages with octets changed', () => {
    const good = encodeMessage({
      ...queryMessage(1, 'a.example.', 15),
      response: true,
      answers: [
        record('a.example.', 'MX', '10 b.a.example.'),
        record('a.example.', 'SOA', 'a.example. b.example. 1 2 3 4 5'),
      ],
    })
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 200 }),
        (octets) => void expect(decodeMessage(octets)).toBeTypeOf('object'),
      ),
    )
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { maxLength: 6 }), (changes) => {
        const octets = good.slice()
        for (const [at, value] of changes) octets[at] = value
        expect(decodeMessage(octets)).toBeTypeOf('object')
      }),
    )
  })
  test.each([
    ['a pointer to itself', '0001 8000 0001 0000 0000 0000 c00c 0001 0001'],
    ['a pointer forwards', '0001 8000 0001 0000 0000 0000 c010 0001 0001 00'],
    ['a label that runs past the end', '0001 8000 0001 0000 0000 0000 3f61'],
    ['a kind of label that nobody uses', '0001 8000 0001 0000 0000 0000 4161 00 0001 0001'],
    ['an address of three octets', '0001 8000 0000 0001 0000 0000 00 0001 0001 00000000 0003 c00002'],
    ['fewer records than promised', '0001 8000 0000 0002 0000 0000 00 ff00 0001 00000000 0000'],
  ])('%s', (_what, octets) => expect(decodeMessage(hex(octets))).toHaveProperty('garbled'))

  test('an answer counts only with the id, the question and the class asked', () => {
    const query = queryMessage(9, 'a.example.', 1)
    const response: Message = { ...query, response: true, questions: [{ name: 'A.Example.', type: 1, class: 1 }] }
    const answers = (message: Message) => answersQuestion(encodeMessage(message), queryOctets(9, 'a.example.', 1))
    expect(answers(response)).toBe(true)
    for (const wrong of [
      { id: 8 },
      { response: false },
      { opcode: 5 },
      { questions: [] },
      { questions: [{ name: 'b.example.', type: 1, class: 1 }] },
      { questions: [{ name: 'a.example.', type: 28, class: 1 }] },
      { questions: [{ name: 'a.example.', type: 1, class: 3 }] },
    ])
      expect(answers({ ...response, ...wrong })).toBe(false)
  })
})

test('a question that is repeated is read as it was asked, whatever octets its labels have', () => {
  const label = fc.uint8Array({ minLength: 1, maxLength: 8 })
  fc.assert(
    fc.property(fc.array(label, { minLength: 1, maxLength: 6 }), (labels) => {
      const name = wireToName(new Uint8Array([...labels.flatMap((each) => [each.length, ...each]), 0]))
      const query = queryOctets(7, name, 1)
      const octets = encodeMessage({
        ...decoded(query),
        response: true,
        answers: [{ owner: name, type: 1, class: 1, ttl: 60, data: new Uint8Array([192, 0, 2, 1]) }],
      })
      const message = decodeMessage(octets, { query, name })
      if ('garbled' in message) throw new Error(message.garbled)
      expect([answersQuestion(octets, query), message.questions[0]!.name, message.answers[0]!.owner]).toEqual([
        true,
        name,
        name,
      ])
    }),
  )
})
