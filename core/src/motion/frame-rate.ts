/** Rates that are meant when a frame time is nearly theirs: of film, video and recording systems. */
const USUAL = [24, 25, 30, 48, 50, 60, 72, 75, 90, 100, 120, 144, 150, 180, 200, 240, 250, 300, 360, 480, 500] as const
/** Those of colour television, which stand beside whole ones. */
const TELEVISION = [24, 30, 60, 120].map(r => (r * 1000) / 1001)

/** Farthest a rate may be from the one it is taken for, share. */
const FARTHEST = 0.0101
/** What a written number may be off by in any case: some count in 32 bits or in whole microseconds. */
const LEAST = 6e-5

/**
 * The rate a frame time stands for: files write 0.00833, 0.0083333 or 0.008333001 and mean 120.
 * @param seconds frame time as it is written
 * @param slack half of what its last digit is worth, seconds
 * @returns frames a second, to four digits behind the point where no usual rate is meant
 */
export function rateOfFrameTime(seconds: number, slack: number): number {
  const near = Math.min(FARTHEST, Math.max(LEAST, slack / seconds))
  const off = (rate: number): number => Math.abs(1 / rate - seconds) * rate
  const meant = (rates: readonly number[]): number | undefined =>
    rates.filter(r => r >= 1 && off(r) <= near).sort((a, b) => off(a) - off(b))[0]
  // where the number is written too short to tell them apart, the common rate is meant
  const rate = meant(USUAL) ?? meant([Math.round(1 / seconds)]) ?? meant(TELEVISION) ?? 1 / seconds
  return Math.round(1e4 * rate) / 1e4
}

/** Half of what the last digit of a written number is worth. */
export function halfDigit(text: string): number {
  const told = /^[+-]?\d*(?:\.(\d*))?(?:e([+-]?\d+))?$/i.exec(text.trim())
  if (!told) return 0
  return 0.5 * 10 ** (Number(told[2] ?? 0) - (told[1]?.length ?? 0))
}
