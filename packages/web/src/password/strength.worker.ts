import { strengthOf } from './strength.js';

let waits: string | null = null;

self.onmessage = ({ data }: MessageEvent<string>) => {
  if (waits === null) setTimeout(answer);
  waits = data;
};

function answer(): void {
  const strength = strengthOf(waits ?? '');
  waits = null;
  self.postMessage(strength);
}
