/**
 * Numbers out of a seed (mulberry32), the same each time: what was found with them is found again.
 * @returns gives a whole number from 0 to below a limit
 */
export function randomFrom(seed: number): (below: number) => number {
  let state = seed >>> 0;
  return (below) => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return Math.floor((((t ^ (t >>> 14)) >>> 0) / 2 ** 32) * below);
  };
}
