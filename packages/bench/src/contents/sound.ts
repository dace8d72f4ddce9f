import wavefile from 'wavefile';
import type { NewFile } from './generate.js';
import { moment, type Life } from './life.js';

const RATE = 16_000;

/** PCM sound in a WAVE file (RIFF): `sample` gives each value, from −1 to 1, at its second. */
function wave(seconds: number, sample: (second: number) => number): Uint8Array {
  const samples = new Int16Array(RATE * seconds);
  for (let s = 0; s < samples.length; s++) samples[s] = sample(s / RATE) * 20_000;
  const file = new wavefile.WaveFile();
  file.fromScratch(1, RATE, '16', samples);
  return file.toBuffer();
}

const tone = (second: number, pitch: number) => Math.sin(second * pitch * 2 * Math.PI);

/** Hummed tunes. */
export function* voiceNotes(life: Life, count: number): Generator<NewFile> {
  for (let i = 1; i <= count; i++) {
    const pitch = life.chance.whole(110, 330);
    const seconds = life.chance.whole(3, 14);
    yield {
      path: `voice-notes/${String(i).padStart(3, '0')}.wav`,
      contents: wave(seconds, (at) => tone(at, pitch) * Math.sin((at / seconds) * Math.PI) * 0.45),
      modified: moment(life),
    };
  }
}

const ALBUMS = ['harbour-band', 'long-evenings'] as const;

/** Songs: a melody of chance over two chords. */
export function* music(life: Life, count: number, seconds: number): Generator<NewFile> {
  for (let i = 1; i <= count; i++) {
    const notes = Array.from({ length: 48 }, () =>
      life.chance.pick([220, 247, 277, 330, 370, 440]),
    );
    yield {
      path: `music/${life.chance.pick(ALBUMS)}/${String(i).padStart(2, '0')}.wav`,
      contents: wave(seconds, (at) => {
        const base = Math.floor(at / 4) % 2 === 0 ? 110 : 147;
        return (
          (tone(at, notes[Math.floor(at * 2)] ?? 220) + tone(at, base) + tone(at, base * 1.5)) / 3.2
        );
      }),
      modified: moment(life),
    };
  }
}
