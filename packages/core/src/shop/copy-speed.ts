/** How fast copies are made at most, MB/s: whatever else needs the disks and the shop network has the rest. */
export const copySpeeds = ['no-limit', '200', '100', '50', '20'] as const;
export type CopySpeed = (typeof copySpeeds)[number];

export const copySpeedNames: Record<CopySpeed, string> = {
  'no-limit': 'As fast as the racks are',
  '200': '200 MB/s at most',
  '100': '100 MB/s at most',
  '50': '50 MB/s at most',
  '20': '20 MB/s at most',
};

/** Bytes a second; null where there is no limit. */
export const bytesPerSecond = (speed: CopySpeed): number | null =>
  speed === 'no-limit' ? null : Number(speed) * 1e6;
