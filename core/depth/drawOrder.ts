/**
 * Far to near by z, the distance of each level's pivot along the lens axis; where z is equal, by rack order, the
 * level listed nearer drawn later. Total and stable: two levels at one depth never fight.
 */
export function inDrawOrder<T extends { readonly z: number; readonly rackIndex: number }>(levels: readonly T[]): T[] {
  return [...levels].sort((a, b) => b.z - a.z || b.rackIndex - a.rackIndex)
}
