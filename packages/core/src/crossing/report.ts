import { z } from 'zod';
import { dataClassIds, type DataClass } from '../device/index.js';
import { formatCount, byteCountSchema, itemCountSchema } from '../values/index.js';
import { fieldIds, type Field } from '../records/fields.js';

/** Why something does not go over, and what to do instead; each a sentence. */
export const stayReasons = {
  'no-place': {
    why: 'This family keeps nothing of the kind.',
    instead: 'Take it out of the backup for the customer, as files that open anywhere.',
  },
  'of-its-family': {
    why: 'It belongs to the family that it comes from.',
    instead: 'The customer sets it up anew.',
  },
  'no-application': {
    why: 'The application store of this family does not have the application.',
    instead: 'Choose another application with the customer.',
  },
  'keeps-own': {
    why: 'The application is there, but does not take over what it kept elsewhere.',
    instead: 'The customer begins anew in it.',
  },
  'own-there': {
    why: 'The device has its own, which is not written over.',
    instead: 'Erase the device first if the backup’s is wanted.',
  },
  'in-store': {
    why: 'It lies in the store of an application, which goes over whole or not at all.',
    instead: 'Take the application in hand, or take what was said out as a file.',
  },
  unreadable: {
    why: 'It is not what its kind should be: nobody can tell what it says.',
    instead: 'Nothing: it was so on the device that was backed up.',
  },
  double: {
    why: 'The same goes over once already.',
    instead: 'Nothing: it is there.',
  },
  'too-long': {
    why: 'It was left out for its size.',
    instead: 'Take it out of the backup for the customer, as files that open anywhere.',
  },
  'not-arrived': {
    why: 'It was sent, and is not on the device as it was sent.',
    instead: 'Send it again: what is there is not sent twice.',
  },
  damaged: {
    why: 'It is damaged in this copy of the archive.',
    instead: 'Restore from another copy.',
  },
} as const;
export type StayReason = keyof typeof stayReasons;
const stayReasonIds = Object.keys(stayReasons) as [StayReason, ...StayReason[]];

/**
 * What becomes of one class: counted in records (a contact, a message) where it has records, in files otherwise. All but `present`
 * and `stays` goes over.
 */
const classCrossingSchema = z.object({
  class: z.enum(dataClassIds),
  /** As it is. */
  whole: itemCountSchema,
  /** Not quite as it is. */
  changed: itemCountSchema,
  /** In which fields, each with how many records. */
  changes: z.array(z.object({ field: z.enum(fieldIds), count: itemCountSchema })),
  /** On the device already: not sent again. */
  present: itemCountSchema,
  /** Of those that go over: beside another version that the device has. */
  beside: itemCountSchema,
  /** Of those that go over: files that the device cannot show. */
  notShown: itemCountSchema,
  stays: z.array(z.object({ why: z.enum(stayReasonIds), count: itemCountSchema })),
  /** Of all that goes over. */
  bytes: byteCountSchema,
});
export type ClassCrossing = z.infer<typeof classCrossingSchema>;

/** What crosses, changes and stays, class by class, in the order of classes. */
export const crossingReportSchema = z.array(classCrossingSchema).max(dataClassIds.length);
export type CrossingReport = z.infer<typeof crossingReportSchema>;

/** What is counted of a class: its records, or files. */
const counted: Partial<Record<DataClass, readonly [one: string, more: string]>> = {
  contacts: ['contact', 'contacts'],
  calendar: ['entry', 'entries'],
  messages: ['message', 'messages'],
  tasks: ['task', 'tasks'],
  calls: ['call', 'calls'],
  notes: ['note', 'notes'],
  health: ['measurement', 'measurements'],
  'web-history': ['page', 'pages'],
  alarms: ['alarm', 'alarms'],
};
/** So many of a class, as people say it. */
export function countedOf(dataClass: DataClass, count: number): string {
  const [one, more] = counted[dataClass] ?? ['file', 'files'];
  return `${formatCount(count)} ${count === 1 ? one : more}`;
}

/** What of a class goes over at all. */
export const goesOver = ({ whole, changed }: Pick<ClassCrossing, 'whole' | 'changed'>): number =>
  whole + changed;
export const staysBehind = ({ stays }: Pick<ClassCrossing, 'stays'>): number =>
  stays.reduce((sum, { count }) => sum + count, 0);

/** Whether anything is lost: then the customer must know before it starts. */
export const losesSomething = (report: CrossingReport): boolean =>
  report.some((one) => one.changed + one.notShown + staysBehind(one) > 0);

/** Classes of which something else arrived than was foreseen. */
export const otherwiseThan = (foreseen: CrossingReport, arrived: CrossingReport): DataClass[] =>
  arrived.flatMap((one) => {
    const before = foreseen.find(({ class: id }) => id === one.class);
    const isSo =
      before &&
      before.whole === one.whole &&
      before.changed === one.changed &&
      before.present === one.present;
    return isSo ? [] : [one.class];
  });

interface Counted {
  whole: number;
  changed: number;
  present: number;
  beside: number;
  notShown: number;
  bytes: number;
  changes: Map<Field, number>;
  stays: Map<StayReason, number>;
}

/** Counts what becomes of what, while it becomes so. */
export class CrossingTally {
  readonly #classes = new Map<DataClass, Counted>();

  #of(dataClass: DataClass): Counted {
    let counted = this.#classes.get(dataClass);
    if (!counted) {
      counted = {
        ...{ whole: 0, changed: 0, present: 0, beside: 0, notShown: 0, bytes: 0 },
        changes: new Map<Field, number>(),
        stays: new Map<StayReason, number>(),
      };
      this.#classes.set(dataClass, counted);
    }
    return counted;
  }

  /** So many go over. @param changed in which fields they are not as they were */
  goes(dataClass: DataClass, changed: readonly Field[], count = 1): void {
    const counted = this.#of(dataClass);
    counted[changed.length === 0 ? 'whole' : 'changed'] += count;
    for (const field of changed) {
      counted.changes.set(field, (counted.changes.get(field) ?? 0) + count);
    }
  }

  add(dataClass: DataClass, what: 'present' | 'beside' | 'notShown' | 'bytes', count = 1): void {
    this.#of(dataClass)[what] += count;
  }

  stays(dataClass: DataClass, why: StayReason, count = 1): void {
    const { stays } = this.#of(dataClass);
    stays.set(why, (stays.get(why) ?? 0) + count);
  }

  report(): CrossingReport {
    return dataClassIds.flatMap((id) => {
      const counted = this.#classes.get(id);
      if (!counted) return [];
      const { changes, stays, ...counts } = counted;
      return [
        {
          ...{ class: id, ...counts },
          changes: [...changes].map(([field, count]) => ({ field, count })),
          stays: [...stays].map(([why, count]) => ({ why, count })),
        },
      ];
    });
  }
}
