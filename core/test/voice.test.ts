import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  listen,
  LONGEST_MINUTES,
  mouthCurves,
  readFaceSolution,
  readWav,
  resampleSound,
  soundSeconds,
  VOWELS,
  writeMouthShapes,
  writeWav,
  type Said,
} from '@chiraxis/core/voice'
import { WaveFile } from 'wavefile'

const tone = (rate: number, hz: number, seconds: number): Float32Array =>
  Float32Array.from({ length: Math.round(rate * seconds) }, (_, i) => 0.5 * Math.sin((2 * Math.PI * hz * i) / rate))
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)

describe('WAV', () => {
  it('is read in every usual depth, its channels joined', () => {
    const samples = tone(8000, 200, 0.1)
    for (const depth of ['8', '16', '24', '32', '32f', '64'] as const) {
      const wav = new WaveFile()
      const most = { 8: 255, 16: 32_767, 24: 8_388_607, 32: 2_147_483_647 }[depth as '16']
      const own = most
        ? samples.map(v => (depth === '8' ? Math.round(127.5 + 127 * v) : Math.round(most * v)))
        : samples
      wav.fromScratch(2, 8000, depth, [own, own] as never)
      const read = readWav(wav.toBuffer())
      expect(read.rate).toBe(8000)
      expect(read.samples.length).toBe(800)
      read.samples.forEach((v, i) => expect(Math.abs(v - samples[i])).toBeLessThan(depth === '8' ? 0.01 : 1e-3))
    }
  })

  it('that is none, cut short, too long or silent is refused with what to do', async () => {
    const good = writeWav({ rate: 8000, samples: tone(8000, 200, 0.5) })
    const code = (run: () => unknown): string => {
      try {
        run()
      } catch (error) {
        return (error as { code: string }).code
      }
      return 'read'
    }
    expect(code(() => readWav(new Uint8Array()))).toBe('empty-file')
    expect(code(() => readWav(bytes('no sound at all, but words')))).toBe('wrong-format')
    expect(code(() => readWav(good.subarray(0, good.length / 2)))).toBe('truncated-file')
    const long = good.slice()
    new DataView(long.buffer).setUint32(40, 8000 * 2 * 60 * (LONGEST_MINUTES + 20), true)
    expect(() => readWav(long)).toThrow(/30 minutes.*Cut it into lines/)
    await expect(listen({ rate: 8000, samples: new Float32Array(8000) })).rejects.toThrow(/silent/)
  })

  it('of damaged bytes never does anything but refuse', () => {
    const good = writeWav({ rate: 8000, samples: tone(8000, 200, 0.05) })
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { minLength: 1, maxLength: 8 }), changes => {
        const damaged = good.slice()
        for (const [at, value] of changes) damaged[at] = value
        try {
          expect(readWav(damaged).samples.every(Number.isFinite)).toBe(true)
        } catch (error) {
          expect((error as { code?: string }).code).toMatch(/-/)
        }
      }),
      { numRuns: 300 },
    )
  })

  it('goes to another rate without what that cannot hold', () => {
    const low = resampleSound({ rate: 48_000, samples: tone(48_000, 300, 0.5) }, 16_000)
    const high = resampleSound({ rate: 48_000, samples: tone(48_000, 11_000, 0.5) }, 16_000)
    const most = (values: Float32Array): number =>
      values.subarray(200, -200).reduce((m, v) => Math.max(m, Math.abs(v)), 0)
    expect(soundSeconds(low)).toBeCloseTo(0.5, 3)
    expect(most(low.samples)).toBeCloseTo(0.5, 2)
    expect(most(high.samples)).toBeLessThan(0.005)
  })
})

const said = fc
  .array(
    fc.tuple(fc.constantFrom(...VOWELS, 'closed', 'rest', 'breath'), fc.double({ min: 0.02, max: 0.4, noNaN: true })),
    {
      minLength: 1,
      maxLength: 12,
    },
  )
  .map(list => {
    let at = 0
    return list.map(([shape, long]): Said => ({
      from: at,
      to: (at += long),
      shape: shape as Said['shape'],
      strength: 1,
    }))
  })

describe('a mouth', () => {
  it('is shut wherever lips are closed, and never opens wider than one shape', () => {
    fc.assert(
      fc.property(said, list => {
        const seconds = list[list.length - 1].to
        const { shapes, fps, frames } = mouthCurves(list, seconds, { lead: 0 })
        for (let f = 0; f < frames; f++) {
          const open = VOWELS.reduce((n, v) => n + shapes[v][f], 0)
          const now = list.find(s => f / fps >= s.from && f / fps < s.to)
          expect(open).toBeLessThan(1.0001)
          if (now?.shape === 'closed') expect(open).toBeCloseTo(0, 6)
        }
      }),
    )
  })

  it('written to a file is read back as it was', () => {
    const list: Said[] = [
      { from: 0, to: 0.4, shape: 'aa', strength: 1 },
      { from: 0.4, to: 0.5, shape: 'closed', strength: 1 },
      { from: 0.5, to: 1, shape: 'ou', strength: 0.5 },
    ]
    const curves = mouthCurves(list, 1)
    const { solution } = readFaceSolution(bytes(writeMouthShapes({ seconds: 1, said: list, tract: 1 }, curves)))
    expect(solution.fps).toBe(60)
    expect(solution.tracks.map(t => t.name)).toEqual([...VOWELS])
    solution.tracks.forEach(t => t.values.forEach((v, f) => expect(v).toBeCloseTo(curves.shapes[t.name as 'aa'][f], 3)))
  })
})

describe('a solution made elsewhere', () => {
  it('is read from a table, at its own times', () => {
    const { solution, told } = readFaceSolution(bytes('time;jawOpen;mouthSmile\n0;0;0\n0.1;0.5;0\n0.2;1;100\n'))
    expect(solution).toMatchObject({ fps: 10, frames: 3 })
    expect([...solution.tracks[0].values]).toEqual([0, 0.5, 1])
    expect([...solution.tracks[1].values]).toEqual([0, 0, 1])
    expect(told).toEqual(['mouthSmile is told in percent.'])
  })

  it('that is none is refused, and weights beyond the range are told', () => {
    for (const [text, why] of [
      ['', /empty/],
      ['{"fps":30}', /told as/],
      ['{oh', /JSON/],
      ['name,jawOpen\n0,1', /first of them time/],
      ['time,jawOpen\n0,1\n0,1', /Line 3 .* later/],
      ['time,jawOpen\n0,1,2', /Line 2 .* 2 numbers/],
      ['{"fps":30,"shapes":{"jawOpen":[0,500]}}', /500/],
    ] as const)
      expect(() => readFaceSolution(bytes(text))).toThrow(why)
    const { solution, told } = readFaceSolution(bytes('{"fps":30,"shapes":{"jawOpen":[-0.2,1.4]}}'))
    expect([...solution.tracks[0].values]).toEqual([0, 1])
    expect(told[0]).toMatch(/beyond 0 to 1/)
  })
})
