import { AppError } from '@porch/wire';
import * as oidc from 'openid-client';
import { z } from 'zod';
import type { CodeSecrets } from '../../auth/tokens.ts';

export interface DirectorySettings {
  readonly issuer: string;
  readonly clientId: string;
  readonly clientSecret: string;
}

/** Who signed in at the directory, and for how long that is believed here. */
const Person = z.strictObject({ name: z.string().max(120), address: z.string().max(200), endsAtMs: z.number() });
export type Person = z.infer<typeof Person>;
const Pending = z.strictObject({ state: z.string(), nonce: z.string(), verifier: z.string(), endsAtMs: z.number() });

const SIGN_IN_MS = 10 * 60_000;
export const PERSON_MS = 8 * 60 * 60_000;
const PATIENCE_SECONDS = 5;

/**
 * Customers known to a directory: OpenID Connect, the authorization code flow with PKCE, state and nonce. What must be
 * remembered meanwhile goes to the browser, sealed: any node can go on with it.
 */
export class Directory {
  readonly #settings: DirectorySettings;
  readonly #secrets: CodeSecrets;
  #found: Promise<oidc.Configuration> | undefined;

  constructor(settings: DirectorySettings, secrets: CodeSecrets) {
    this.#settings = settings;
    this.#secrets = secrets;
  }

  /** Where to send the browser, and what it keeps until it is back. Throws DIRECTORY_DOWN. */
  async begin(redirectUri: string): Promise<{ url: string; pending: string }> {
    const config = await this.#configuration();
    const [state, nonce, verifier] = [oidc.randomState(), oidc.randomNonce(), oidc.randomPKCECodeVerifier()];
    const url = oidc.buildAuthorizationUrl(config, {
      redirect_uri: redirectUri,
      scope: 'openid profile email',
      state,
      nonce,
      code_challenge: await oidc.calculatePKCECodeChallenge(verifier),
      code_challenge_method: 'S256',
    });
    return { url: url.href, pending: this.#seal({ state, nonce, verifier, endsAtMs: Date.now() + SIGN_IN_MS }) };
  }

  /** The browser is back. Throws DIRECTORY_REFUSED when anything does not fit, DIRECTORY_DOWN when nobody answers. */
  async finish(back: URL, pending: string): Promise<{ person: Person; sealed: string }> {
    const config = await this.#configuration();
    const kept = this.#open(Pending, pending);
    if (!kept) throw new AppError('DIRECTORY_REFUSED');
    try {
      const tokens = await oidc.authorizationCodeGrant(config, back, {
        expectedState: kept.state,
        expectedNonce: kept.nonce,
        pkceCodeVerifier: kept.verifier,
        idTokenExpected: true,
      });
      const claims = tokens.claims();
      // An address that nobody checked is not who somebody is (OpenID Connect Core 1.0, 5.1).
      z.literal(true).parse(claims?.['email_verified']);
      const person = Person.parse({
        name: claims?.['name'],
        address: claims?.['email'],
        endsAtMs: Date.now() + PERSON_MS,
      });
      return { person, sealed: this.#seal(person) };
    } catch (cause) {
      throw new AppError('DIRECTORY_REFUSED', {}, { cause });
    }
  }

  whoIs(sealed: string | undefined): Person | undefined {
    return sealed ? this.#open(Person, sealed) : undefined;
  }

  /** Asked once and kept; a directory that was down is asked again. */
  async #configuration(): Promise<oidc.Configuration> {
    const { issuer, clientId, clientSecret } = this.#settings;
    const url = new URL(issuer);
    // Plain HTTP is for a directory on this very machine alone.
    const isHere = url.protocol === 'http:' && /^(127\.|localhost$|\[::1\]$)/.test(url.hostname);
    this.#found ??= oidc.discovery(url, clientId, undefined, oidc.ClientSecretBasic(clientSecret), {
      timeout: PATIENCE_SECONDS,
      ...(isHere ? { execute: [oidc.allowInsecureRequests] } : {}),
    });
    try {
      return await this.#found;
    } catch (cause) {
      this.#found = undefined;
      throw new AppError('DIRECTORY_DOWN', {}, { cause });
    }
  }

  #seal(value: object): string {
    return this.#secrets.seal(JSON.stringify(value)).toString('base64url');
  }

  /** Undefined for what we did not seal, has another form, or is over. */
  #open<T extends { endsAtMs: number }>(schema: z.ZodType<T>, sealed: string): T | undefined {
    try {
      const value = schema.parse(JSON.parse(this.#secrets.open(Buffer.from(sealed, 'base64url')) ?? ''));
      return value.endsAtMs > Date.now() ? value : undefined;
    } catch {
      return undefined;
    }
  }
}
