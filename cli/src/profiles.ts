import { existsSync } from 'node:fs'
import { readProfile, SHIPPED_PROFILES, shippedProfile, type Profile } from '@chiraxis/core/delivery'
import { ChiraxisError } from '@chiraxis/core/math'
import { readJson } from './files'

/**
 * A delivery profile by the name of a shipped one, or the file it is kept in.
 * @throws ChiraxisError `bad-settings` where there is none
 */
export function profileNamed(told: string): Profile {
  if (/\.json$/i.test(told) && existsSync(told)) return readProfile(readJson(told, 'profile'))
  const shipped = shippedProfile(told)
  if (shipped) return shipped
  throw new ChiraxisError(
    'bad-settings',
    `There is no profile ${told}. There are ${SHIPPED_PROFILES.map(p => p.name).join('; ')}; or name a file (.json).`,
  )
}
