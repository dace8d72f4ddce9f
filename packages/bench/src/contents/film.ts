import OpusScript from 'opusscript';
import sharp from 'sharp';
import { ArrayBufferTarget, Muxer } from 'webm-muxer';

/** Frames a second, and how sound is sampled. */
const FRAMES_PER_SECOND = 12;
const RATE = 48_000;
/** Opus takes sound in pieces of 20 ms. */
const PIECE = 960;

/**
 * A video that any browser plays: WebM (Matroska) with VP8 pictures, each of which stands by itself, and Opus sound.
 * @param frames PNG pictures, all of one size
 * @param sound a value from −1 to 1 at each second
 */
export async function film(
  frames: readonly Buffer[],
  size: { width: number; height: number },
  sound: (second: number) => number,
): Promise<Uint8Array> {
  const target = new ArrayBufferTarget();
  const muxer = new Muxer({
    target,
    video: { codec: 'V_VP8', ...size, frameRate: FRAMES_PER_SECOND },
    audio: { codec: 'A_OPUS', numberOfChannels: 1, sampleRate: RATE },
  });
  const pictures = await Promise.all(frames.map(pictureOf));
  const sounds = soundOf(pictures.length / FRAMES_PER_SECOND, sound);
  pictures.forEach((picture, n) => {
    const at = (n / FRAMES_PER_SECOND) * 1e6;
    muxer.addVideoChunkRaw(picture, 'key', at);
    // Sound beside the pictures that it belongs to.
    while (sounds.length > 0 && (sounds[0]?.at ?? 0) <= at) {
      const piece = sounds.shift();
      if (!piece) break;
      const isFirst = piece.at === 0;
      muxer.addAudioChunkRaw(
        piece.packet,
        'key',
        piece.at,
        isFirst
          ? {
              decoderConfig: {
                description: opusHead(),
                codec: 'opus',
                numberOfChannels: 1,
                sampleRate: RATE,
              },
            }
          : {},
      );
    }
  });
  for (const piece of sounds) muxer.addAudioChunkRaw(piece.packet, 'key', piece.at, {});
  muxer.finalize();
  return new Uint8Array(target.buffer);
}

/** A still WebP is one VP8 frame in a RIFF file (RFC 9649): here without the file. */
async function pictureOf(png: Buffer): Promise<Uint8Array> {
  const webp = await sharp(png).removeAlpha().webp({ quality: 55, effort: 0 }).toBuffer();
  for (let at = 12; at + 8 <= webp.length;) {
    const length = webp.readUInt32LE(at + 4);
    if (webp.toString('latin1', at, at + 4) === 'VP8 ') {
      return new Uint8Array(webp.subarray(at + 8, at + 8 + length));
    }
    at += 8 + length + (length % 2);
  }
  throw new Error('a picture without a frame');
}

function soundOf(seconds: number, sound: (second: number) => number) {
  const encoder = new OpusScript(RATE, 1, OpusScript.Application.AUDIO, { wasm: false });
  const pieces: { at: number; packet: Uint8Array }[] = [];
  for (let first = 0; first < seconds * RATE; first += PIECE) {
    const samples = Buffer.alloc(PIECE * 2);
    for (let n = 0; n < PIECE; n++) {
      samples.writeInt16LE(Math.round(sound((first + n) / RATE) * 20_000), n * 2);
    }
    const packet = new Uint8Array(encoder.encode(samples, PIECE));
    pieces.push({ at: (first / RATE) * 1e6, packet });
  }
  encoder.delete();
  return pieces;
}

/** RFC 7845, section 5.1. */
function opusHead(): Uint8Array {
  const head = Buffer.alloc(19);
  head.write('OpusHead', 'latin1');
  head.writeUInt8(1, 8);
  head.writeUInt8(1, 9);
  head.writeUInt16LE(312, 10);
  head.writeUInt32LE(RATE, 12);
  return new Uint8Array(head);
}
