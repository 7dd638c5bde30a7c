// Meshes with fewer triangles, for views that are drawn plainly: triangles are what slow
// graphics take longest for.
import type { SimplifierFlags } from 'meshoptimizer/simplifier'
import type { MeshData } from '@/core/bridge'

/** Meshes with fewer triangles than this stay as they are. */
const few = 100
/** What is aimed at, as a share of the triangles. */
const share = 0.12
/** Metres by which a surface may lie elsewhere, or this share of the mesh's size if that is less. */
const off = 0.15
const offShare = 0.06
/** Farther from the mesh's middle than so many metres surfaces may be off by more, as they are seen smaller. */
const near = 20

/** How much it counts, in metres, that a corner has another normal than its surface. */
const turned = 0.1

/** Returns the indices of a mesh with fewer triangles of the same corners. */
export type Fewer = (mesh: Pick<MeshData, 'positions' | 'normals' | 'indices'>) => Uint32Array

/** Loads what finds them; the library comes only to those who draw plainly. */
export async function loadFewer(): Promise<Fewer> {
  const { MeshoptSimplifier: simplifier } = await import('meshoptimizer/simplifier')
  await simplifier.ready
  return ({ positions, normals, indices }) => {
    if (indices.length < few * 3) return indices
    const seen = pulledIn(positions)
    const error = Math.min(off, offShare * simplifier.getScale(seen, 3))
    const target = Math.ceil((indices.length * share) / 3) * 3
    const weights = [turned, turned, turned]
    const how: SimplifierFlags[] = ['Permissive', 'Prune', 'ErrorAbsolute']
    return simplifier.simplifyWithAttributes(indices, seen, 3, normals, 3, weights, null, target, error, how)[0]
  }
}

/** Places with those far from the middle pulled in by the logarithm of their distance, which keeps angles. */
function pulledIn(positions: Float32Array): Float32Array {
  const out = new Float32Array(positions)
  for (let i = 0; i < out.length; i += 3) {
    const away = Math.hypot(out[i]!, out[i + 1]!, out[i + 2]!)
    if (away > near) for (let k = i; k < i + 3; k++) out[k]! *= (near * (1 + Math.log(away / near))) / away
  }
  return out
}
