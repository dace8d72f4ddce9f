import { create } from 'xmlbuilder2';
import { z } from 'zod';
import type { Faults } from './faults.js';
import type { Login } from './signature.js';

interface Shown {
  address: string;
  bucket: string;
  login: Login;
  faults: Faults;
  objects: number;
  bytes: number;
}

/** Each fault as somebody sets it: its name in the form, in words, and its unit. */
const fields = {
  slow: { label: 'Waits before each answer', unit: 'ms', most: 60_000 },
  fail: { label: 'Says that it is too busy, one of so many times', unit: '0: never', most: 1000 },
  cut: { label: 'Cuts the line, one of so many times', unit: '0: never', most: 1000 },
  skew: { label: 'Its clock is ahead by', unit: 'minutes', most: 1440 },
} as const;

const number = (most: number) => z.coerce.number().int().min(0).max(most).catch(0);
const formSchema = z.object({
  slow: number(fields.slow.most),
  fail: number(fields.fail.most),
  cut: number(fields.cut.most),
  skew: number(fields.skew.most),
});

/** What the form says; what is no number is no fault. */
export function faultsFrom(form: unknown): Faults {
  const { slow, fail, cut, skew } = formSchema.parse(form);
  return { slowMs: slow, failEvery: fail, cutEvery: cut, skewMs: skew * 60_000 };
}

const STYLE = `
  body { font: 16px/1.5 sans-serif; margin: 2rem auto; max-width: 44rem; padding: 0 1rem; background: #f3efe6; color: #2b2620 }
  dl { display: grid; grid-template-columns: 12rem 1fr; gap: .3rem 1rem } dt { color: #5a544b } dd { margin: 0; font-family: monospace }
  label { display: grid; grid-template-columns: 1fr 8rem 6rem; gap: 1rem; align-items: center; margin: .5rem 0 }
  input { font: inherit; padding: .2rem .4rem; text-align: right } button { font: inherit; padding: .4rem 1rem; margin-top: .6rem }`;

/** A page for whoever tries the demo: what to type to add it as a rack, and what is to go wrong with it. */
export function pageOf({ address, bucket, login, faults, objects, bytes }: Shown): string {
  const now = {
    slow: faults.slowMs,
    fail: faults.failEvery,
    cut: faults.cutEvery,
    skew: faults.skewMs / 60_000,
  };
  const facts: [string, string][] = [
    ['Address of the storage', address],
    ['Bucket', bucket],
    ['Region', 'local'],
    ['Name of the key', login.accessKey],
    ['Key', login.secretKey],
    ['Holds now', `${objects} objects, ${(bytes / 1e6).toFixed(1)} MB`],
  ];
  return create({
    html: {
      '@lang': 'en',
      head: {
        meta: { '@charset': 'utf-8' },
        title: 'Rented storage, a stand-in',
        style: STYLE,
      },
      body: {
        main: {
          h1: 'Rented storage, a stand-in',
          p: 'Belongs to the demo only. Type these when you add a rack of the kind “object storage”.',
          dl: { '#': facts.map(([dt, dd]) => ({ dt, dd })) },
          h2: 'What goes wrong with it',
          form: {
            '@method': 'post',
            '@action': '/',
            label: Object.entries(fields).map(([name, { label, unit, most }]) => ({
              span: label,
              input: {
                ...{ '@name': name, '@type': 'number', '@min': '0', '@max': String(most) },
                '@value': String(now[name as keyof typeof fields]),
              },
              small: unit,
            })),
            button: { '#': 'From now on' },
          },
        },
      },
    },
  }).end({ headless: true });
}
