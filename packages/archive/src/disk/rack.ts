import { statfs } from 'node:fs/promises';
import { Failure } from '@bright-cellar/core';

/** Room on the drive that a rack's folder lies on, in bytes. */
export interface RackRoom {
  capacity: number;
  free: number;
}

/** @throws Failure `rack-not-here` when the folder is not there. */
export async function rackRoom(folder: string): Promise<RackRoom> {
  try {
    const { blocks, bavail, bsize } = await statfs(folder);
    return { capacity: blocks * bsize, free: bavail * bsize };
  } catch (error) {
    throw new Failure('rack-not-here', {}, { cause: error });
  }
}
