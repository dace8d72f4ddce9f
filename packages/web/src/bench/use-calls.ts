import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { queries } from '../api/queries.js';

const KEY = 'cellar-sound';
export const soundIsOn = (): boolean => localStorage.getItem(KEY) !== 'off';
export function setSound(on: boolean): void {
  localStorage.setItem(KEY, on ? 'on' : 'off');
}

/** Two short notes, low enough for a counter with customers at it. */
function ring(): void {
  const audio = new AudioContext();
  [523, 659].forEach((pitch, i) => {
    const at = audio.currentTime + i * 0.18;
    const tone = audio.createOscillator();
    const volume = audio.createGain();
    tone.frequency.value = pitch;
    volume.gain.setValueAtTime(0.0001, at);
    volume.gain.exponentialRampToValueAtTime(0.12, at + 0.02);
    volume.gain.exponentialRampToValueAtTime(0.0001, at + 0.16);
    tone.connect(volume).connect(audio.destination);
    tone.start(at);
    tone.stop(at + 0.17);
  });
  setTimeout(() => void audio.close(), 800);
}

/** Calls somebody, by a sound and in the title of the window, when work that runs begins to need them. */
export function useCalls(): void {
  const operations = useQuery(queries.operations()).data;
  const called = useRef(new Set<string>());
  const calling = (operations ?? []).filter((o) => o.needs !== null);
  const names = calling.map((o) => `${o.id} ${o.needs ?? ''}`).join('\n');
  useEffect(() => {
    const now = new Set(names === '' ? [] : names.split('\n'));
    const isNew = [...now].some((name) => !called.current.has(name));
    called.current = now;
    if (isNew && soundIsOn()) ring();
  }, [names]);
  const count = calling.length;
  useEffect(() => {
    const mark = () => {
      const plain = document.title.replace(/^\(\d+\) /, '');
      const wanted = count > 0 ? `(${count}) ${plain}` : plain;
      if (document.title !== wanted) document.title = wanted;
    };
    mark();
    // Every page sets its own title.
    const watch = new MutationObserver(mark);
    const title = document.querySelector('title');
    if (title) watch.observe(title, { childList: true });
    return () => watch.disconnect();
  }, [count]);
}
