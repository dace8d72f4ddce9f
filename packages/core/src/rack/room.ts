/** A rack's room, in bytes. */
interface RackRoom {
  capacity: number;
  free: number;
  /** Kept free. */
  reserve: number;
}

/** Room above the reserve, in bytes. */
export const roomAbove = ({ free, reserve }: Pick<RackRoom, 'free' | 'reserve'>): number =>
  Math.max(0, free - reserve);

/** So little is left that the next large device may not fit; of a small rack, a tenth. */
const NARROW_BYTES = 64e9;
const NARROW_SHARE = 0.1;
export const isNarrow = (rack: RackRoom): boolean =>
  roomAbove(rack) < Math.min(NARROW_BYTES, rack.capacity * NARROW_SHARE);
