import { describe, expect, it } from 'vitest'
import { seededRandom } from '@chiraxis/core/math'
import { listen, mouthCurves, readWav, VOWELS, writeWav, type Vowel } from '@chiraxis/core/voice'
import { speak, SPEAKER, type Phone } from '../src/voice'

/** A line of vowels with lips shut between some, and how it is spoken. */
function lineOf(seed: number): ReturnType<typeof speak> {
  const next = seededRandom(seed)
  const line: Phone[] = [{ what: 'pause', seconds: 0.2 }]
  for (let i = 0; i < 14; i++) {
    line.push({ what: VOWELS[Math.floor(5 * next())], seconds: 0.1 + 0.15 * next(), loud: 0.6 + 0.4 * next() })
    const then = next()
    if (then < 0.3) line.push({ what: 'p', seconds: 0.06 + 0.06 * next() })
    else if (then < 0.45) line.push({ what: 'm', seconds: 0.07 + 0.05 * next() })
    else if (then < 0.55) line.push({ what: 's', seconds: 0.08 })
  }
  line.push({ what: 'aa', seconds: 0.15 }, { what: 'pause', seconds: 0.3 })
  const high = next()
  return speak(line, {
    pitch: [100 + 190 * high, 85 + 160 * high],
    tract: 0.95 + 0.3 * high,
    rate: [16_000, 22_050, 44_100, 48_000][seed % 4],
    quiet: [40, 30, 20][seed % 3],
    bright: next(),
    seed,
  })
}

/** Share of the moments of vowels that are told right, and closures found within 40 ms. */
function score({ sound, said }: ReturnType<typeof speak>, heard: Awaited<ReturnType<typeof listen>>) {
  const { shapes, fps, frames } = mouthCurves(heard.said, heard.seconds, { lead: 0 })
  let [vowels, right] = [0, 0]
  for (let f = 0; f < frames; f++) {
    const true_ = said.find(s => f / fps >= s.from && f / fps < s.to)?.shape
    if (!VOWELS.includes(true_ as Vowel)) continue
    vowels++
    const shown = VOWELS.reduce((a, b) => (shapes[b][f] > shapes[a][f] ? b : a))
    right += Number(shown === true_ && shapes[shown][f] > 0)
  }
  const shut = said.filter(s => s.shape === 'closed')
  const found = heard.said.filter(s => s.shape === 'closed')
  const hit = shut.filter(s => found.some(h => Math.abs(h.from - s.from) < 0.04 && Math.abs(h.to - s.to) < 0.04))
  const wrong = found.filter(h => !shut.some(s => h.from < s.to && h.to > s.from))
  return {
    right: right / vowels,
    shut: shut.length,
    hit: hit.length,
    wrong: wrong.length,
    seconds: sound.samples.length / sound.rate,
  }
}

describe('a voice is heard', () => {
  it('on ten lines of other speakers, pitches, rates and noise: vowels in 85 % of their moments, closures within 40 ms', async () => {
    const scores: ReturnType<typeof score>[] = []
    for (let seed = 101; seed <= 110; seed++) {
      const line = lineOf(seed)
      scores.push(score(line, await listen(readWav(writeWav(line.sound)))))
    }
    const sum = (of: (s: (typeof scores)[number]) => number): number => scores.reduce((n, s) => n + of(s), 0)
    expect(sum(s => s.right) / 10).toBeGreaterThan(0.85)
    expect(sum(s => s.hit) / sum(s => s.shut)).toBeGreaterThan(0.85)
    expect(sum(s => s.wrong)).toBeLessThan(5)
    for (const s of scores) expect(s.right).toBeGreaterThan(0.6)
  }, 60_000)

  it('whoever speaks: the tract is found from the voice, not from its pitch', async () => {
    const line: Phone[] = VOWELS.map(what => ({ what, seconds: 0.25 }))
    for (const tract of [0.95, 1.1, 1.25]) {
      const { sound } = speak(line, { ...SPEAKER, pitch: [170, 160], tract })
      expect((await listen(sound)).tract).toBeCloseTo(tract, 0.9)
    }
  }, 30_000)

  it('and begins with lips shut where it does', async () => {
    const { sound } = speak(
      [
        { what: 'pause', seconds: 0.2 },
        { what: 'm', seconds: 0.1 },
        { what: 'aa', seconds: 0.3 },
        { what: 'pause', seconds: 0.2 },
      ],
      SPEAKER,
    )
    const { said } = await listen(sound)
    expect(said.map(s => s.shape)).toEqual(['rest', 'closed', 'aa', 'rest'])
    expect(said[1].from).toBeCloseTo(0.2, 1)
  })
})
