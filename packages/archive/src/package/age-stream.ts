import { generateIdentity, identityToRecipient } from 'age-encryption';
import { AgeSealer, beginAge, type AgeRecipient } from './age-payload.js';

/** A stream as an age v1 file, sealed to a recipient or a password. @throws Failure `input-not-valid` for a recipient that is none */
export async function* sealAge(
  source: AsyncIterable<Uint8Array>,
  to: AgeRecipient,
): AsyncGenerator<Buffer> {
  const { bytes, payloadKey } = await beginAge(to);
  const sealer = new AgeSealer(payloadKey);
  payloadKey.fill(0);
  yield bytes;
  for await (const piece of source) yield* sealer.seal(piece);
  yield* sealer.finish();
}

/** A key to seal things to that only who keeps its other half can open. */
export async function newRecoveryKey(): Promise<{ recipient: string; identity: string }> {
  const identity = await generateIdentity();
  return { recipient: await identityToRecipient(identity), identity };
}
