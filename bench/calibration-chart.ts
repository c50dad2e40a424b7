/** How far off landmarks are, by the confidence they were told with: mean and 9 of 10, as a picture. */
export function calibrationChart(bins: readonly { readonly from: number; readonly offs: readonly number[] }[]): string {
  const W = 640,
    H = 320,
    L = 64,
    B = 44,
    top = 0.08
  const x = (c: number): number => L + c * (W - L - 20),
    y = (v: number): number => H - B - Math.min(1, v / top) * (H - B - 24)
  const bars = bins
    .map(({ from, offs }) => {
      const m = offs.reduce((a, b) => a + b, 0) / offs.length,
        q = offs[Math.floor(offs.length * 0.9)]
      return `<rect x="${x(from) + 4}" y="${y(m)}" width="${x(0.1) - x(0) - 8}" height="${y(0) - y(m)}" fill="#4b5d73"/><path d="M${x(from + 0.05)} ${y(m)}V${y(q)}m-6 0h12" stroke="#a8402c" stroke-width="2" fill="none"/><text x="${x(from + 0.05)}" y="${H - B + 30}" text-anchor="middle" font-size="10" fill="#5a6568">${offs.length}</text>`
    })
    .join('')
  const ticks = [0, 0.02, 0.04, 0.06, 0.08]
    .map(
      v =>
        `<path d="M${L} ${y(v)}H${W - 20}" stroke="#cfc6b4"/><text x="${L - 8}" y="${y(v) + 4}" text-anchor="end" font-size="11" fill="#20292c">${(100 * v).toFixed(0)} %</text>`,
    )
    .join('')
  const labels = Array.from(
    { length: 11 },
    (_, i) =>
      `<text x="${x(i / 10)}" y="${H - B + 16}" text-anchor="middle" font-size="11" fill="#20292c">${(i / 10).toFixed(1)}</text>`,
  ).join('')
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${W} ${H}" font-family="sans-serif"><rect width="${W}" height="${H}" fill="#f5f1e8"/><text x="${L}" y="16" font-size="13" font-weight="600" fill="#20292c">How far off landmarks are, by the confidence they were told with (share of height)</text>${ticks}${labels}${bars}<text x="${W - 20}" y="${H - 4}" text-anchor="end" font-size="10" fill="#5a6568">bars: mean; whiskers: 90 of 100; below: how many landmarks</text></svg>\n`
}
