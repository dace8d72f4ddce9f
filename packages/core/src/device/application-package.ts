import { z } from 'zod';
import { compareOsVersions, type DeviceFacts } from './device.js';

/** What a package of one application says of itself: docs/application-package.md. */
export const applicationManifestSchema = z.object({
  format: z.literal('application-package'),
  version: z.literal(1),
  id: z.string().regex(/^[A-Za-z0-9][A-Za-z0-9._-]{0,80}$/),
  name: z.string().max(300),
  /** Null where the device that it came from did not say. */
  applicationVersion: z.string().max(40).nullable().default(null),
  device: z.object({
    family: z.string().max(60),
    model: z.string().max(120),
    serial: z.string().max(120),
    osVersion: z.string().max(60),
  }),
  files: z
    .array(
      z.object({
        path: z
          .string()
          .max(1000)
          .regex(/^(?!\/)(?!.*(?:^|\/)\.{0,2}(?:\/|$))[^\\\0]+$/),
        bytes: z.int().min(0),
        sha512: z.string().regex(/^[0-9a-f]{128}$/),
        modified: z.iso.datetime(),
      }),
    )
    .max(200_000),
});
export type ApplicationManifest = z.infer<typeof applicationManifestSchema>;

/** What is to be known of a package before it goes onto a device. */
export interface PackageJudgement {
  /** Why it does not go onto it at all, in a sentence; null where it does. */
  stays: string | null;
  /** What is to be told, each in a sentence. */
  says: string[];
}

/** Judges a package by what it says and what a device takes. Whether the device has the application already is found out there. */
export function judgePackage(
  {
    id,
    applicationVersion,
    device: from,
  }: Pick<ApplicationManifest, 'id' | 'applicationVersion' | 'device'>,
  device: Pick<DeviceFacts, 'family' | 'familyName' | 'capabilities'>,
): PackageJudgement {
  const { takes } = device.capabilities;
  const offered = takes?.applications.find((one) => one.id === id);
  const stays = (why: string): PackageJudgement => ({ stays: why, says: [] });
  if (!takes) return stays('This device takes no single applications.');
  const isSameFamily = from.family === device.family;
  if (!isSameFamily && !offered)
    return stays(`The application store of ${device.familyName} does not have it.`);
  if (!isSameFamily && !offered?.crosses)
    return stays('The application is there, but does not take over what it kept elsewhere.');
  const says = [
    ...(isSameFamily ? [] : [`It comes from another family, and takes over what it kept there.`]),
    ...(offered
      ? []
      : [
          'The application store does not offer it any more: its data goes over, and nothing opens it.',
        ]),
    ...versionSays(applicationVersion, offered?.version ?? null),
  ];
  return { stays: null, says };
}

function versionSays(own: string | null, store: string | null): string[] {
  if (own === null || store === null) return [];
  const order = compareOsVersions(own, store);
  if (order > 0)
    return [`Version ${own} wrote it; the store has ${store}, which is older and may not read it.`];
  return order < 0 ? [`Version ${own} wrote it; the store has ${store}, which is newer.`] : [];
}
