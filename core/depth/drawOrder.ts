/**
 * Far to near by z, the distance of each level's pivot along the lens axis; where z is equal, by rack order, the
 * level listed nearer drawn later. What has a lower `layer` (0 where it has none) is drawn before all else. Total and
 * stable: two levels at one depth never fight.
 */
export function inDrawOrder<T extends { readonly z: number; readonly rackIndex: number; readonly layer?: number }>(levels: readonly T[]): T[] {
  return [...levels].sort((a, b) => (a.layer ?? 0) - (b.layer ?? 0) || b.z - a.z || b.rackIndex - a.rackIndex)
}
