import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import Fastify, { type FastifyInstance } from 'fastify';
import { exportJWK, generateKeyPair, SignJWT } from 'jose';
import { z } from 'zod';

export interface DirectoryPerson {
  readonly name: string;
  readonly address: string;
  /** Whether the directory checked that the address is theirs. */
  readonly isVerified: boolean;
}
export interface DirectoryOptions {
  readonly issuer: string;
  readonly clientId: string;
  readonly clientSecret: string;
  readonly people: readonly DirectoryPerson[];
}

const CODE_MS = 60_000;
const TOKEN_SECONDS = 300;
const escape = (text: string) => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

const Authorize = z.object({
  client_id: z.string(),
  redirect_uri: z.url(),
  response_type: z.literal('code'),
  scope: z.string(),
  state: z.string(),
  nonce: z.string(),
  code_challenge: z.string(),
  code_challenge_method: z.literal('S256'),
});
type Authorize = z.infer<typeof Authorize>;

interface Given {
  readonly asked: Authorize;
  readonly person: DirectoryPerson;
  readonly endsAtMs: number;
}

/**
 * A directory for demo and tests: OpenID Connect Core 1.0, the authorization code flow with PKCE (RFC 7636) and nothing
 * else. Whoever opens its page chooses who they are; a real one would ask for a password.
 */
export async function buildDirectoryApp(options: DirectoryOptions): Promise<FastifyInstance> {
  const app = Fastify({ logger: false, forceCloseConnections: true });
  app.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string' }, (_request, body, done) =>
    done(null, Object.fromEntries(new URLSearchParams(String(body)))),
  );
  const codes = new Map<string, Given>();
  addSignInPage(app, options, codes);
  await addTokens(app, options, codes);
  return app;
}

/** Where a person says who they are; what they are sent back with is a code. */
function addSignInPage(app: FastifyInstance, { clientId, people }: DirectoryOptions, codes: Map<string, Given>): void {
  app.get('/authorize', (request, reply) => {
    const asked = Authorize.safeParse(request.query);
    if (!asked.success || asked.data.client_id !== clientId)
      return reply.code(400).type('text/html').send('<p>This is no sign-in that the directory knows.</p>');
    const hidden = Object.entries(asked.data)
      .map(([name, value]) => `<input type="hidden" name="${escape(name)}" value="${escape(value)}">`)
      .join('');
    const buttons = people.map(
      (p) => `<p><button name="who" value="${escape(p.address)}">${escape(p.name)}</button></p>`,
    );
    return reply
      .type('text/html')
      .send(
        `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Directory</title><body style="font:18px/1.5 system-ui,sans-serif;max-width:30rem;margin:2rem auto"><h1>Who are you?</h1><p>The directory of Marrowick Ferries, simulated: it ships with Zesty Porch and asks for no password.</p><form method="post" action="/authorize">${hidden}${buttons.join('')}</form></body></html>`,
      );
  });
  app.post('/authorize', (request, reply) => {
    const form = request.body as Record<string, string>;
    const asked = Authorize.safeParse(form);
    const person = people.find((p) => p.address === form['who']);
    if (!asked.success || !person) return reply.code(400).send({ error: 'invalid_request' });
    const code = randomBytes(24).toString('base64url');
    codes.set(code, { asked: asked.data, person, endsAtMs: Date.now() + CODE_MS });
    const back = new URL(asked.data.redirect_uri);
    back.searchParams.set('code', code);
    back.searchParams.set('state', asked.data.state);
    return reply.redirect(back.href, 303);
  });
}

/** What the service reads of the directory, and how a code becomes a token. */
async function addTokens(
  app: FastifyInstance,
  { issuer, clientId, clientSecret }: DirectoryOptions,
  codes: Map<string, Given>,
): Promise<void> {
  const { publicKey, privateKey } = await generateKeyPair('RS256');
  const kid = randomBytes(8).toString('hex');
  const jwk = { ...(await exportJWK(publicKey)), kid, alg: 'RS256', use: 'sig' };
  app.get('/.well-known/openid-configuration', () => ({
    issuer,
    authorization_endpoint: `${issuer}/authorize`,
    token_endpoint: `${issuer}/token`,
    jwks_uri: `${issuer}/keys`,
    response_types_supported: ['code'],
    subject_types_supported: ['public'],
    id_token_signing_alg_values_supported: ['RS256'],
    code_challenge_methods_supported: ['S256'],
    token_endpoint_auth_methods_supported: ['client_secret_basic'],
    scopes_supported: ['openid', 'profile', 'email'],
  }));
  app.get('/keys', () => ({ keys: [jwk] }));

  app.post('/token', async (request, reply) => {
    const given = Buffer.from(request.headers.authorization ?? '');
    const right = Buffer.from(`Basic ${Buffer.from(`${clientId}:${clientSecret}`).toString('base64')}`);
    if (given.length !== right.length || !timingSafeEqual(given, right))
      return reply.code(401).send({ error: 'invalid_client' });
    const form = request.body as Record<string, string>;
    const known = codes.get(form['code'] ?? '');
    codes.delete(form['code'] ?? '');
    const challenge = createHash('sha256')
      .update(form['code_verifier'] ?? '')
      .digest('base64url');
    const isRight =
      known !== undefined &&
      Date.now() < known.endsAtMs &&
      form['grant_type'] === 'authorization_code' &&
      form['redirect_uri'] === known.asked.redirect_uri &&
      challenge === known.asked.code_challenge;
    if (!isRight) return reply.code(400).send({ error: 'invalid_grant' });
    const idToken = await new SignJWT({
      name: known.person.name,
      email: known.person.address,
      email_verified: known.person.isVerified,
      nonce: known.asked.nonce,
    })
      .setProtectedHeader({ alg: 'RS256', kid })
      .setIssuer(issuer)
      .setAudience(clientId)
      .setSubject(known.person.address)
      .setIssuedAt()
      .setExpirationTime(`${TOKEN_SECONDS}s`)
      .sign(privateKey);
    return reply.header('cache-control', 'no-store').send({
      access_token: randomBytes(24).toString('base64url'),
      token_type: 'Bearer',
      expires_in: TOKEN_SECONDS,
      id_token: idToken,
    });
  });
}
