import type { Strength } from './strength.js';

/**
 * Measures what passwords are worth beside the page, so that nobody’s typing waits for it: its word lists are long.
 * @param onMeasured told in the order of what was to be measured; of what came while it measured, only of the last
 */
export function startMeasuring(onMeasured: (strength: Strength) => void) {
  const worker = new Worker(new URL('./strength.worker.ts', import.meta.url), { type: 'module' });
  worker.onmessage = ({ data }: MessageEvent<Strength>) => onMeasured(data);
  return {
    measure: (password: string) => worker.postMessage(password),
    end: () => worker.terminate(),
  };
}
