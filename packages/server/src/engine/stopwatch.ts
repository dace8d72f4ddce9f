/** How long something takes, in whole milliseconds: whatever the computer's clock is set to meanwhile. */
export function stopwatch(): () => number {
  const began = performance.now();
  return () => Math.round(performance.now() - began);
}
