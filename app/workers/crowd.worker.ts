import './without-eval'
import * as Comlink from 'comlink'
import { createCrowd, type Agent, type Crowd, type Kind, type Way } from '@chiraxis/core/trial'

export interface CrowdFrame {
  readonly joints: readonly Float32Array[]
  readonly matrices: readonly Float32Array[]
  /** Milliseconds it took to move everybody on and to pose them. */
  readonly spent: number
}
export interface CrowdApi {
  /** Who may be in it. */
  meet(kinds: readonly Kind[]): void
  start(ways: readonly Way[], agents: readonly Agent[]): void
  step(seconds: number): CrowdFrame
}

let kinds: readonly Kind[] = []
let crowd: Crowd | undefined
/** Moves a crowd on and poses it, away from the window's thread. */
const api: CrowdApi = {
  meet(list) {
    kinds = list
  },
  start(ways, agents) {
    crowd = createCrowd(kinds, ways, agents)
  },
  step(seconds) {
    const from = performance.now()
    crowd?.step(seconds)
    const posed = crowd?.pose() ?? { joints: [], matrices: [] }
    const spent = performance.now() - from
    const joints = posed.joints.map(a => a.slice())
    const matrices = posed.matrices.map(a => a.slice())
    return Comlink.transfer(
      { joints, matrices, spent },
      [...joints, ...matrices].map(a => a.buffer),
    )
  },
}
Comlink.expose(api)
