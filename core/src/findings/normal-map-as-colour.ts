import type { Rule } from './finding'

/** A material shows a normal map as its colour. */
export const normalMapAsColour: Rule = {
  id: 'normal-map-as-colour',
  detect: ({ materials = [], images = [], bumpy = [], normalMaps = [] }) =>
    materials.flatMap(m => {
      const at = m.maps.color
      if (at === undefined || !bumpy.includes(at) || normalMaps.includes(m.name)) return []
      return [
        {
          rule: 'normal-map-as-colour',
          severity: 'warning' as const,
          value: 1,
          unit: 'image',
          where: m.name,
          message: `The colour of ${m.name} is ${images[at]?.name ?? 'an image'}, which is a normal map: the figure would look blue and flat.`,
          mendable: true,
          remedy: 'Uses the image as the normal map and shows the plain colour.',
          target: m.name,
        },
      ]
    }),
  mend: finding => ({ normalMap: finding.where }),
}
