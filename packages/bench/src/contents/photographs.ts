import sharp from 'sharp';
import type { Life, Place } from './life.js';
import { film } from './film.js';
import { Chance } from './random.js';

/** Pictures drawn by code: a landscape, its light by the hour, and film grain so that they weigh what photographs weigh. */
const GRAIN_SIZE = 256;

async function grain(chance: Chance, strength: number): Promise<Buffer> {
  const pixels = Buffer.alloc(GRAIN_SIZE * GRAIN_SIZE);
  for (let i = 0; i < pixels.length; i++) {
    pixels[i] = 128 + (chance.share() + chance.share() - 1) * strength;
  }
  return sharp(pixels, { raw: { width: GRAIN_SIZE, height: GRAIN_SIZE, channels: 1 } })
    .png({ compressionLevel: 1 })
    .toBuffer();
}

function hills(chance: Chance, width: number, base: number, rise: number, fill: string): string {
  const points = [`0,${base}`];
  for (let x = 0; x <= 12; x++) {
    points.push(`${(x / 12) * width},${base - chance.share() * rise}`);
  }
  return `<polygon points="${points.join(' ')} ${width},9999 0,9999" fill="${fill}"/>`;
}

function scene(chance: Chance, width: number, height: number, hour: number): string {
  const light = Math.max(0.15, Math.sin(((hour - 5) / 17) * Math.PI));
  const tone = (h: number, s: number, l: number) => `hsl(${h} ${s}% ${Math.round(l * light)}%)`;
  const hue = chance.whole(180, 230);
  const parts = [
    `<linearGradient id="sky" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="${tone(hue, 55, 62)}"/><stop offset="1" stop-color="${tone(hue - 150 * (1 - light), 60, 86)}"/></linearGradient>`,
    `<rect width="${width}" height="${height}" fill="url(#sky)"/>`,
    `<circle cx="${chance.whole(0, width)}" cy="${height * (0.5 - 0.4 * light)}" r="${width / 30}" fill="${tone(45, 90, 95)}"/>`,
    hills(chance, width, height * 0.55, height * 0.2, tone(hue - 30, 25, 48)),
    hills(chance, width, height * 0.68, height * 0.15, tone(chance.whole(80, 130), 30, 38)),
    `<rect y="${height * 0.74}" width="${width}" height="${height}" fill="${tone(hue, 35, 45)}"/>`,
  ];
  for (let i = 0; i < chance.whole(2, 7); i++) {
    const x = chance.whole(0, width);
    const y = height * (0.68 + chance.share() * 0.2);
    const size = width * (0.02 + chance.share() * 0.05);
    parts.push(
      chance.happens(0.5)
        ? `<path d="M${x} ${y}h${size}v${-size}l${-size / 2} ${-size * 0.6}l${-size / 2} ${size * 0.6}z" fill="${tone(chance.whole(5, 45), 40, 55)}"/>`
        : `<ellipse cx="${x}" cy="${y}" rx="${size * 0.6}" ry="${size}" fill="${tone(chance.whole(90, 150), 40, 30)}"/>`,
    );
  }
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${parts.join('')}</svg>`;
}

function face(chance: Chance): string {
  const [wall, coat] = [chance.whole(0, 360), chance.whole(0, 360)];
  const skin = `hsl(${chance.whole(18, 34)} ${chance.whole(30, 55)}% ${chance.whole(32, 78)}%)`;
  const hair = `hsl(${chance.whole(15, 45)} ${chance.whole(10, 50)}% ${chance.whole(12, 60)}%)`;
  const length = chance.whole(70, 150);
  const parts = [
    `<rect width="200" height="200" fill="hsl(${wall} 25% 72%)"/>`,
    `<rect x="54" y="38" width="92" height="${length}" rx="44" fill="${hair}"/>`,
    `<path d="M10 210c0-60 40-66 90-66s90 6 90 66z" fill="hsl(${coat} 35% 38%)"/>`,
    `<rect x="88" y="118" width="24" height="36" fill="${skin}"/>`,
    `<ellipse cx="100" cy="92" rx="34" ry="42" fill="${skin}"/>`,
    `<path d="M64 86c4-40 68-40 72 0-20-22-52-22-72 0z" fill="${hair}"/>`,
    `<path d="M88 112q12 ${chance.whole(-2, 12)} 24 0" stroke="#40302a" stroke-width="3" fill="none"/>`,
    `<circle cx="88" cy="90" r="3.5" fill="#2a2320"/><circle cx="112" cy="90" r="3.5" fill="#2a2320"/>`,
  ];
  return `<svg xmlns="http://www.w3.org/2000/svg" width="200" height="200">${parts.join('')}</svg>`;
}

const exifDate = (at: Date) =>
  at
    .toISOString()
    .slice(0, 19)
    .replace('T', ' ')
    .replace(/^(\d+)-(\d+)-(\d+)/, '$1:$2:$3');

/** Degrees as EXIF has them: whole degrees, whole minutes, hundredths of a second. */
function exifDegrees(degrees: number): string {
  const total = Math.round(Math.abs(degrees) * 360_000);
  return `${Math.floor(total / 360_000)}/1 ${Math.floor((total % 360_000) / 6_000)}/1 ${total % 6_000}/100`;
}

export class Darkroom {
  readonly #grains: Promise<Buffer>[];
  readonly #model: string;

  constructor(life: Life, model: string) {
    this.#model = model;
    const chance = new Chance(`grain ${life.owner.email}`);
    this.#grains = [40, 55, 70].map((strength) => grain(chance, strength));
  }

  /** No larger than what it lies on. */
  async #grain(chance: Chance, width: number, height: number): Promise<Buffer> {
    const grains = await chance.pick(this.#grains);
    if (width >= GRAIN_SIZE && height >= GRAIN_SIZE) return grains;
    const part = { width: Math.min(width, GRAIN_SIZE), height: Math.min(height, GRAIN_SIZE) };
    return sharp(grains)
      .extract({ left: 0, top: 0, ...part })
      .toBuffer();
  }

  /** One JPEG with its date and place. The same arguments give the same bytes. */
  async photograph(seed: string, at: Date, place: Place, width: number, height: number) {
    const chance = new Chance(seed);
    return sharp(Buffer.from(scene(chance, width, height, at.getUTCHours())))
      .composite([
        { input: await this.#grain(chance, width, height), tile: true, blend: 'overlay' },
      ])
      .flatten()
      .withExif({
        IFD0: { Model: this.#model, DateTime: exifDate(at) },
        IFD2: { DateTimeOriginal: exifDate(at) },
        IFD3: {
          GPSLatitudeRef: place.latitude < 0 ? 'S' : 'N',
          GPSLatitude: exifDegrees(place.latitude),
          GPSLongitudeRef: place.longitude < 0 ? 'W' : 'E',
          GPSLongitude: exifDegrees(place.longitude),
        },
      })
      .jpeg({ quality: 94 })
      .toBuffer();
  }

  /** Somebody, as a cut-out before a plain wall: a small JPEG for their card. The same seed gives the same bytes. */
  async portrait(seed: string): Promise<Buffer> {
    return sharp(Buffer.from(face(new Chance(`portrait ${seed}`))))
      .flatten()
      .jpeg({ quality: 82 })
      .toBuffer();
  }

  /** A video of one scene that passes by, with a hum. The same arguments give the same bytes. */
  async clip(seed: string, at: Date, count: number, width: number) {
    const chance = new Chance(seed);
    const height = Math.round(width * 0.28125) * 2;
    const wide = await sharp(Buffer.from(scene(chance, width * 2, height, at.getUTCHours())))
      .composite([{ input: await chance.pick(this.#grains), tile: true, blend: 'overlay' }])
      .flatten()
      .png({ compressionLevel: 1 })
      .toBuffer();
    const frames = await Promise.all(
      Array.from({ length: count }, (_, i) =>
        sharp(wide)
          .extract({ left: Math.round((i / count) * width), top: 0, width, height })
          .png({ compressionLevel: 1 })
          .toBuffer(),
      ),
    );
    const pitch = chance.whole(110, 330);
    return film(frames, { width, height }, (at) => Math.sin(at * pitch * 2 * Math.PI) * 0.3);
  }
}
