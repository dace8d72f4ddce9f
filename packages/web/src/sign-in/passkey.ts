import {
  browserSupportsWebAuthn,
  startAuthentication,
  startRegistration,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
} from '@simplewebauthn/browser';
import { routes, type Account, type Session } from '@bright-cellar/contract';
import { problem } from '@bright-cellar/core';
import { ApiFailure, call } from '../api/call.js';

/** A passkey is for a name: under an address none is made. */
export const passkeysWork = (): boolean =>
  browserSupportsWebAuthn() && !/^[\d.]+$|^\[/.test(window.location.hostname);

/** @throws ApiFailure */
export async function signInWithPasskey(): Promise<Session> {
  const { ask, options } = await call(routes.passkeyAsk);
  const optionsJSON = options as unknown as PublicKeyCredentialRequestOptionsJSON;
  const answer = await startAuthentication({ optionsJSON }).catch(notMade);
  return call(routes.passkeySignIn, { body: { ask, answer: { ...answer } } });
}

/** @throws ApiFailure */
export async function addPasskey(password: string, name: string): Promise<Account> {
  const { options } = await call(routes.offerPasskey, { body: { password } });
  const optionsJSON = options as unknown as PublicKeyCredentialCreationOptionsJSON;
  const answer = await startRegistration({ optionsJSON }).catch(notMade);
  return call(routes.addPasskey, { body: { name, answer: { ...answer } } });
}

/** Whoever closes the browser’s own window, or has no device that can. */
function notMade(): never {
  throw new ApiFailure(
    problem('second-factor', {
      what: 'The browser gave no passkey.',
      next: 'Try again, or use another device; with name and password it goes as well.',
    }),
  );
}
