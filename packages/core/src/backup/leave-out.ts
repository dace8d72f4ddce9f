import { z } from 'zod';
import { dataClassIds, type DataClass } from '../device/index.js';
import { amountSchema, byteCountSchema } from '../values/index.js';

/** Which files stay behind without anybody choosing each: rules, which name nothing of a customer's and can be remembered. */
export const leaveOutSchema = z.object({
  /** Videos of so many bytes and more; null for none. */
  videosFrom: byteCountSchema.nullable(),
  /** Of files that are the same to the byte, all but the first. */
  doubles: z.boolean(),
});
export type LeaveOut = z.infer<typeof leaveOutSchema>;
export const nothingLeftOut: LeaveOut = { videosFrom: null, doubles: false };

/** What such rules would leave behind of what goes. */
export const sparableSchema = z.object({
  doubles: z.array(amountSchema.extend({ class: z.enum(dataClassIds) })),
  /** The longest few, then more and more of them. `doubles`: the bytes of those among them that are there already. */
  videos: z.array(amountSchema.extend({ from: byteCountSchema, doubles: byteCountSchema })),
});
export type Sparable = z.infer<typeof sparableSchema>;
export const nothingSparable: Sparable = { doubles: [], videos: [] };

/** Classes whose files are each by itself: of two that are the same, one is enough. */
const eachByItself: ReadonlySet<DataClass> = new Set<DataClass>([
  ...(['photographs', 'videos', 'voice-notes', 'documents', 'music'] as const),
]);

/** So many of the longest videos, then so many, and so on; the last are half of all. */
const STEPS = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];

interface File {
  class: DataClass;
  bytes: number;
}

/** Goes through files one by one: what of them stays, and what could. */
export class LeavingOut {
  readonly #rule: LeaveOut;
  readonly #seen = new Set<string>();
  readonly #doubles = new Map<DataClass, { items: number; bytes: number }>();
  readonly #videos: { bytes: number; isDouble: boolean }[] = [];

  constructor(rule: LeaveOut) {
    this.#rule = rule;
  }

  /** Why a file stays; null where it goes. @param contents stands for its bytes */
  whyStays(file: File, contents: string): 'double' | 'too-long' | null {
    if (!eachByItself.has(file.class)) return null;
    const isDouble = file.bytes > 0 && this.#seen.has(contents);
    if (isDouble) {
      const { items, bytes } = this.#doubles.get(file.class) ?? { items: 0, bytes: 0 };
      this.#doubles.set(file.class, { items: items + 1, bytes: bytes + file.bytes });
    }
    if (file.class === 'videos') this.#videos.push({ bytes: file.bytes, isDouble });
    const { videosFrom, doubles } = this.#rule;
    if (file.class === 'videos' && videosFrom !== null && file.bytes >= videosFrom)
      return 'too-long';
    // The first that goes: one that stays for another reason is there for nobody.
    if (isDouble) return doubles ? 'double' : null;
    this.#seen.add(contents);
    return null;
  }

  sparable(): Sparable {
    const doubles = [...this.#doubles].map(([id, amount]) => ({ class: id, ...amount }));
    const longest = this.#videos.toSorted((a, b) => b.bytes - a.bytes);
    const froms = STEPS.filter((count) => count * 2 <= longest.length).map((count) =>
      roundedDown(longest[count - 1]?.bytes ?? 0),
    );
    const videos = [...new Set(froms)].map((from) => {
      const those = longest.filter(({ bytes }) => bytes >= from);
      const sum = (some: typeof those) => some.reduce((all, { bytes }) => all + bytes, 0);
      const both = those.filter(({ isDouble }) => isDouble);
      return { from, items: those.length, bytes: sum(those), doubles: sum(both) };
    });
    return { doubles, videos: videos.filter(({ bytes }) => bytes > 0) };
  }
}

/** What a rule leaves out, in bytes: of what is there twice, and of videos; none of classes that do not go anyway. */
export function savedBy(
  { videosFrom, doubles }: LeaveOut,
  sparable: Sparable,
  goes: (dataClass: DataClass) => boolean = () => true,
): { doubles: number; videos: number } {
  const long = goes('videos') ? sparable.videos.find(({ from }) => from === videosFrom) : undefined;
  const twice = sparable.doubles.filter((one) => goes(one.class));
  const ofDoubles = twice.reduce((sum, { bytes }) => sum + bytes, 0);
  return {
    doubles: doubles ? ofDoubles - (long?.doubles ?? 0) : 0,
    videos: long?.bytes ?? 0,
  };
}

/** To two digits: as somebody would say it. */
function roundedDown(bytes: number): number {
  const step = 10 ** Math.max(0, Math.floor(Math.log10(Math.max(1, bytes))) - 1);
  return Math.floor(bytes / step) * step;
}
