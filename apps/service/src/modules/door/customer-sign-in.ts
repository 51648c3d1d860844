import type { PolicyFor } from '@porch/core';
import type { FastifyRequest } from 'fastify';
import { readCookie } from '../../http/cookies.ts';
import type { Directory } from '../directory/directory.ts';

export interface SignInParts {
  readonly directory: Directory | undefined;
  readonly policyFor: PolicyFor;
}

/** Whether customers can or must sign in, and whoever has. */
export function signInOf(request: FastifyRequest, { directory, policyFor }: SignInParts) {
  const known = directory?.whoIs(readCookie(request, 'porch_person'));
  return {
    canSignIn: directory !== undefined,
    needsSignIn: policyFor().requestsNeedSignIn,
    ...(known ? { person: { name: known.name, address: known.address } } : {}),
  };
}
