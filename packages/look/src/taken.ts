/** What a photograph says of when, where and with what it was taken. */
export interface Taken {
  /** Its camera's clock knows no zone: it is told as if that were UTC. */
  at: string | undefined;
  camera: string;
  /** Degrees. */
  place: { latitude: number; longitude: number } | null;
}

/** The same each time: the library keeps what it makes of every object that it is given here. */
const WANTED = {
  pick: [
    ...['DateTimeOriginal', 'Make', 'Model'],
    ...['GPSLatitude', 'GPSLongitude', 'GPSLatitudeRef', 'GPSLongitudeRef'],
  ],
  reviveValues: false,
};

/** So much of a file holds what its camera wrote. */
export const TAKEN_BYTES = 128 * 1024;

/** Reads it from the beginning of a file (Exif 2.3); null where there is nothing, or nothing that can be believed. */
export async function takenFrom(beginning: Uint8Array): Promise<Taken | null> {
  // Most of what is looked into holds no photographs.
  const { default: exifr } = await import('exifr');
  let said: Record<string, unknown> | undefined;
  try {
    said = (await exifr.parse(beginning, WANTED)) as Record<string, unknown> | undefined;
  } catch {
    return null;
  }
  if (!said) return null;
  const { DateTimeOriginal: at, Model: camera, latitude, longitude } = said;
  const day = /^(\d{4}):(\d\d):(\d\d) (\d\d:\d\d:\d\d)/.exec(typeof at === 'string' ? at : '');
  const moment = day ? new Date(`${day[1]}-${day[2]}-${day[3]}T${day[4]}Z`) : null;
  const isMoment = moment !== null && !Number.isNaN(moment.getTime());
  const isPlace =
    typeof latitude === 'number' &&
    typeof longitude === 'number' &&
    Math.abs(latitude) <= 90 &&
    Math.abs(longitude) <= 180;
  return {
    at: isMoment ? moment.toISOString() : undefined,
    camera: typeof camera === 'string' ? camera.slice(0, 80) : '',
    place: isPlace ? { latitude, longitude } : null,
  };
}
