import { zlibSync } from 'fflate'

/** A record of a binary FBX: a name, values, records inside. Lists of numbers are told as doubles or whole numbers. */
export interface FbxRecord {
  readonly name: string
  readonly values?: readonly (string | number | bigint | Float64Array | Float32Array | Int32Array)[]
  readonly inside?: readonly FbxRecord[]
}

/** Writes a binary FBX of version 7400, lists packed. */
export function binaryFbx(records: readonly FbxRecord[]): Uint8Array {
  const out: number[] = [...new TextEncoder().encode('Kaydara FBX Binary  '), 0, 0x1a, 0]
  const u32 = (v: number, at = out.length): void => {
    for (let k = 0; k < 4; k++) out[at + k] = (v >>> (8 * k)) & 255
  }
  const raw = (bytes: ArrayLike<number>): void => {
    for (let i = 0; i < bytes.length; i++) out.push(bytes[i]!)
  }
  const value = (v: NonNullable<FbxRecord['values']>[number]): void => {
    if (typeof v === 'string') {
      const bytes = new TextEncoder().encode(v)
      out.push(83)
      u32(bytes.length)
      raw(bytes)
    } else if (typeof v === 'bigint') {
      out.push(76)
      raw(new Uint8Array(BigInt64Array.of(v).buffer))
    } else if (typeof v === 'number') {
      out.push(Number.isInteger(v) ? 73 : 68)
      raw(new Uint8Array(Number.isInteger(v) ? Int32Array.of(v).buffer : Float64Array.of(v).buffer))
    } else {
      out.push(v instanceof Float64Array ? 100 : v instanceof Float32Array ? 102 : 105)
      const packed = zlibSync(new Uint8Array(v.buffer, v.byteOffset, v.byteLength))
      u32(v.length)
      u32(1)
      u32(packed.length)
      raw(packed)
    }
  }
  const record = ({ name, values = [], inside = [] }: FbxRecord): void => {
    const at = out.length
    u32(0)
    u32(values.length)
    u32(0)
    out.push(name.length, ...new TextEncoder().encode(name))
    const from = out.length
    values.forEach(value)
    u32(out.length - from, at + 8)
    if (inside.length > 0) {
      inside.forEach(record)
      raw(new Uint8Array(13))
    }
    u32(out.length, at)
  }
  u32(7400)
  records.forEach(record)
  raw(new Uint8Array(13 + 160))
  return Uint8Array.from(out)
}

const named = (name: string, kind: string): string => `${name}\u0000\u0001${kind}`
/** A quad and a triangle on a bone that turns: what a small exporter would write. */
export const sheetRecords = (keys: Float32Array = Float32Array.of(0, 45)): FbxRecord[] => [
  { name: 'FBXHeaderExtension', inside: [{ name: 'FBXVersion', values: [7400] }] },
  {
    name: 'GlobalSettings',
    inside: [{ name: 'Properties70', inside: [{ name: 'P', values: ['UpAxis', 'int', 'Integer', '', 1] }] }],
  },
  {
    name: 'Objects',
    inside: [
      {
        name: 'Geometry',
        values: [1001n, named('sheet', 'Geometry'), 'Mesh'],
        inside: [
          { name: 'Vertices', values: [Float64Array.of(0, 0, 0, 10, 0, 0, 10, 10, 0, 0, 10, 0, 5, 20, 0)] },
          { name: 'PolygonVertexIndex', values: [Int32Array.of(0, 1, 2, -4, 3, 2, -5)] },
          { name: 'GeometryVersion', values: [124] },
        ],
      },
      { name: 'Model', values: [2001n, named('sheet', 'Model'), 'Mesh'], inside: [{ name: 'Version', values: [232] }] },
      {
        name: 'Model',
        values: [2002n, named('bone', 'Model'), 'LimbNode'],
        inside: [{ name: 'Version', values: [232] }],
      },
      { name: 'AnimationStack', values: [3001n, named('turn', 'AnimStack'), ''], inside: [] },
      { name: 'AnimationLayer', values: [3002n, named('layer', 'AnimLayer'), ''], inside: [] },
      {
        name: 'AnimationCurveNode',
        values: [3003n, named('R', 'AnimCurveNode'), ''],
        inside: [{ name: 'Properties70', inside: [{ name: 'P', values: ['d|X', 'Number', '', 'A', 0.5] }] }],
      },
      {
        name: 'AnimationCurve',
        values: [3004n, named('', 'AnimCurve'), ''],
        inside: [
          { name: 'KeyTime', values: [Int32Array.of(0, 1)] },
          { name: 'KeyValueFloat', values: [keys] },
        ],
      },
    ],
  },
  {
    name: 'Connections',
    inside: [
      { name: 'C', values: ['OO', 2001n, 0n] },
      { name: 'C', values: ['OO', 2002n, 0n] },
      { name: 'C', values: ['OO', 1001n, 2001n] },
      { name: 'C', values: ['OO', 3002n, 3001n] },
      { name: 'C', values: ['OO', 3003n, 3002n] },
      { name: 'C', values: ['OP', 3003n, 2002n, 'Lcl Rotation'] },
      { name: 'C', values: ['OP', 3004n, 3003n, 'd|X'] },
    ],
  },
]
