import { S3Client } from '@aws-sdk/client-s3';
import { Failure } from '@bright-cellar/core';
import { z } from 'zod';
import { codedError } from '../remote/medium.js';
import type { ObjectsAddress } from './address.js';

const TRIES = 5;
const CONNECT_MS = 5_000;
const ANSWER_MS = 60_000;

export function clientOf({ endpoint, region, login }: ObjectsAddress): S3Client {
  return new S3Client({
    ...{ endpoint, region, forcePathStyle: true, maxAttempts: TRIES },
    credentials: { accessKeyId: login.accessKey, secretAccessKey: login.secretKey },
    requestHandler: { connectionTimeout: CONNECT_MS, requestTimeout: ANSWER_MS },
    // Everything is read back and compared by digests of our own.
    requestChecksumCalculation: 'WHEN_REQUIRED',
    responseChecksumValidation: 'WHEN_REQUIRED',
  });
}

const answerSchema = z.object({
  name: z.string().default(''),
  $metadata: z.object({ httpStatusCode: z.number().optional() }).default({}),
});

/** What the storage's answer means, as a POSIX code or as a Failure that says why it lets nobody in. */
export function posixOf(error: unknown): unknown {
  if (error instanceof Failure) return error;
  const { data } = answerSchema.safeParse(error);
  const status = data?.$metadata.httpStatusCode;
  const refused = (what: string, next: string) =>
    new Failure('rack-not-here', { what, next }, { cause: error });
  switch (data?.name) {
    case 'NoSuchBucket':
      return refused(
        'The storage knows no bucket of that name.',
        'Make the bucket there, or add the rack again with its right name.',
      );
    case 'RequestTimeTooSkewed':
      return refused(
        'The clocks of this computer and of the storage are too far apart.',
        'Set the clock that is wrong.',
      );
    default:
  }
  if (status === 404) return codedError('ENOENT', error);
  if (status === 412 || status === 409) return codedError('EEXIST', error);
  if (status === 507) return codedError('ENOSPC', error);
  if (status === 401 || status === 403) {
    return refused(
      'The storage refuses the key.',
      'Ask whoever runs it, then add the rack again with a key that may read and write there.',
    );
  }
  return codedError(status === 400 ? 'EIO' : 'ENOTCONN', error);
}
