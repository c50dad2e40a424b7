import type { Finding, Rule } from './finding'

/** What straightening changed: turned, lifted or shifted bodies, told so that nobody is surprised on delivery. */
export const stoodOff: Rule = {
  id: 'stood-off',
  detect: ({ straightened: s }) => {
    if (!s) return []
    const out: Finding[] = []
    const note = (where: string, value: number, unit: string, message: string): void => {
      out.push({ rule: 'stood-off', severity: 'note', value: Math.round(value * 100) / 100, unit, where, message, mendable: false })
    }
    if (s.turn > 0) note('turn', s.turn, 'degrees', `The body stood ${s.turn.toFixed(1)} degrees off its axes and was turned straight.`)
    if (s.up !== '+y') note('up axis', 0, '', `The file has ${s.up} up; the body was brought to Y up.`)
    if (s.unit !== 'm') note('unit', s.height, 'm', `The file is in ${s.unit}; the body was brought to metres and is ${s.height.toFixed(2)} m tall.`)
    if (Math.abs(s.offGround) > 0.002 * s.height) note('ground', s.offGround * 100, 'cm', `The body stood ${Math.abs(s.offGround * 100).toFixed(1)} cm ${s.offGround > 0 ? 'above' : 'below'} the ground and was set on it.`)
    if (s.asymmetry > 0.012) note('symmetry', s.asymmetry * 100, '% of size', `Left and right differ by ${(s.asymmetry * 100).toFixed(1)} % of the body's size on average.`)
    return out
  },
}
