/** What a part of a body weighs and where its mass lies, by the joint that moves it. */
export interface PublishedSegment {
  readonly role: string
  /** Share of the whole body. */
  readonly mass: number
  /** Where its centre lies on the way to `to`, 0 at the joint. */
  readonly along: number
  readonly to: readonly string[]
  /** Joints that take it over where there is none of its own, the first that is there. */
  readonly else: readonly string[]
}

/**
 * Shares of parts of living bodies, women's and men's in the middle (de Leva 1996, "Adjustments to Zatsiorsky-Seluyanov's segment
 * inertia parameters", Journal of Biomechanics 29, table 4). The middle of the trunk is told in two halves.
 */
export const PUBLISHED: readonly PublishedSegment[] = [
  { role: 'hips', mass: 0.1182, along: 0.4, to: ['spine', 'chest', 'neck'], else: [] },
  { role: 'spine', mass: 0.07745, along: 0.5, to: ['chest', 'upperChest', 'neck'], else: ['hips'] },
  { role: 'chest', mass: 0.07745, along: 0.5, to: ['upperChest', 'neck', 'head'], else: ['spine', 'hips'] },
  { role: 'upperChest', mass: 0.15705, along: 0.5, to: ['neck', 'head'], else: ['chest', 'spine', 'hips'] },
  { role: 'head', mass: 0.0681, along: 0.5, to: [], else: ['neck', 'upperChest', 'chest'] },
  ...(['left', 'right'] as const).flatMap((side): PublishedSegment[] => [
    { role: `${side}UpperArm`, mass: 0.0263, along: 0.5755, to: [`${side}LowerArm`], else: [] },
    { role: `${side}LowerArm`, mass: 0.015, along: 0.4565, to: [`${side}Hand`], else: [`${side}UpperArm`] },
    {
      role: `${side}Hand`,
      mass: 0.00585,
      along: 0.7685,
      to: [`${side}MiddleProximal`, `${side}IndexProximal`],
      else: [`${side}LowerArm`],
    },
    { role: `${side}UpperLeg`, mass: 0.1447, along: 0.3854, to: [`${side}LowerLeg`], else: [] },
    { role: `${side}LowerLeg`, mass: 0.0457, along: 0.4438, to: [`${side}Foot`], else: [`${side}UpperLeg`] },
    { role: `${side}Foot`, mass: 0.0133, along: 0.4215, to: [`${side}Toes`], else: [`${side}LowerLeg`] },
  ]),
]
