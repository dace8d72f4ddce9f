import { type DataClass, type ClassAmount, type DeviceFacts, roomBeside } from '../device/index.js';
import { nothingSparable, savedBy, type LeaveOut, type Sparable } from './leave-out.js';

/** Whether something goes onto a device, to the byte. All in bytes. */
export interface Fit {
  /** What goes over. */
  contents: number;
  /** What the device makes of it, besides: indexes, previews. */
  made: number;
  /** What it works in meanwhile. */
  working: number;
  /** What its OS downloads later, as far as the device says it. */
  later: number;
  need: number;
  free: number;
  /** How much too much it is; 0 where it fits. */
  over: number;
}

export function fitOf(
  device: Pick<DeviceFacts, 'capacity' | 'used' | 'osUpdate'>,
  contents: number,
): Fit {
  const { made, working } = roomBeside(contents, device.capacity);
  const later = device.osUpdate?.bytes ?? 0;
  const need = contents + made + working + later;
  const free = device.capacity - device.used;
  return { contents, made, working, later, need, free, over: Math.max(0, need - free) };
}

/**
 * What it costs a customer to do without a class, beside others: what downloads again costs little, what nobody can bring back
 * costs most.
 */
const costs: Record<DataClass, number> = {
  music: 1,
  videos: 6,
  documents: 20,
  'voice-notes': 25,
  photographs: 60,
  applications: 80,
  'web-history': 90,
  health: 200,
  settings: 200,
  'saved-passwords': 300,
  alarms: 300,
  calls: 300,
  notes: 400,
  messages: 500,
  tasks: 450,
  calendar: 600,
  contacts: 1000,
};

/** What to leave out: whole classes, and files by a rule. */
export interface LeavingOutProposal {
  classes: DataClass[];
  without: LeaveOut;
  /** What of the rule is left out, in bytes. */
  doubles: number;
  videos: number;
}

/** Nobody misses what is there twice; long videos are some of all videos. */
const DOUBLES_COST = 0.5;
const LONG_VIDEOS_COST = 2;

/**
 * What to leave out so that the rest fits, at the least cost to the customer, and of what costs the same the least; null where even
 * nothing would fit. Every choice is tried: there are few classes and rules.
 * @param sparable what rules would save of what is chosen
 */
export function proposedLeavingOut(
  device: Parameters<typeof fitOf>[0],
  chosen: readonly ClassAmount[],
  sparable: Sparable = nothingSparable,
): LeavingOutProposal | null {
  const some = chosen.filter(({ bytes }) => bytes > 0);
  const all = some.reduce((sum, { bytes }) => sum + bytes, 0);
  const rules = rulesOf(some, sparable);
  let best: (LeavingOutProposal & { cost: number; bytes: number }) | null = null;
  for (let mask = 0; mask < 2 ** some.length; mask++) {
    const out = some.filter((_, i) => (mask & (1 << i)) !== 0);
    const classes = out.map((amount) => amount.class);
    const ofClasses = out.reduce((sum, { bytes }) => sum + bytes, 0);
    const costOfClasses = classes.reduce((sum, id) => sum + costs[id], 0);
    for (const rule of rules) {
      // What is left out with its class saves nothing more.
      const { doubles, videos } = savedBy(rule.without, sparable, (id) => !classes.includes(id));
      const bytes = ofClasses + doubles + videos;
      const cost = costOfClasses + rule.cost;
      const isBetter = !best || cost < best.cost || (cost === best.cost && bytes < best.bytes);
      if (isBetter && fitOf(device, all - bytes).over === 0)
        best = { classes, without: rule.without, doubles, videos, cost, bytes };
    }
  }
  if (!best) return null;
  const { cost: _, bytes: __, ...proposal } = best;
  return proposal;
}

function rulesOf(chosen: readonly ClassAmount[], { videos }: Sparable) {
  const allVideos = chosen.find((amount) => amount.class === 'videos')?.bytes ?? 0;
  const long = videos.map(({ from, bytes }) => ({
    videosFrom: from,
    cost: LONG_VIDEOS_COST + (3 * bytes) / Math.max(1, allVideos),
  }));
  return [{ videosFrom: null, cost: 0 }, ...long].flatMap(({ videosFrom, cost }) => [
    { without: { videosFrom, doubles: false }, cost },
    { without: { videosFrom, doubles: true }, cost: cost + DOUBLES_COST },
  ]);
}
