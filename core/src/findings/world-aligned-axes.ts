import { OWN_CONVENTION, readAxes } from '../skeleton'
import { rounded, type Rule } from './finding'

/** Joint axes follow the world, not the bones. */
export const worldAlignedAxes: Rule = {
  id: 'world-aligned-axes',
  detect: ({ skeleton, source }) => {
    if (!skeleton || source !== 'received') return []
    const axes = readAxes(skeleton)
    if (axes.kind === 'along') return []
    const off = [...axes.off].filter(v => !Number.isNaN(v))
    const mean = (off.reduce((a, b) => a + b, 0) / Math.max(1, off.length)) * (180 / Math.PI)
    return [
      {
        rule: 'world-aligned-axes',
        severity: 'warning',
        value: rounded(mean),
        unit: 'degrees',
        where: 'skeleton',
        message:
          axes.kind === 'world'
            ? `All joints are turned like the world, ${mean.toFixed(0)} degrees off their bones on average. Limits, mirrored poses and motions from other skeletons go wrong on them.`
            : `The axes of the joints follow different rules: they lie ${mean.toFixed(0)} degrees off the bones on average.`,
        mendable: true,
        remedy:
          'Aims +Y of every joint along its bone and +X along its hinge. Skin and takes stay exactly as they are.',
      },
    ]
  },
  mend: () => ({ rig: [{ kind: 'aim', convention: OWN_CONVENTION }] }),
}
