import type { FastifyReply, FastifyRequest } from 'fastify';

declare module 'fastify' {
  interface FastifyRequest {
    /** Whether it came, or by the public address has to come, over TLS. */
    isSecure: boolean;
  }
}

export type CookieName = 'porch_door' | 'porch_console' | 'porch_person' | 'porch_sign_in';

/*
 * Over TLS a cookie's name begins with `__Host-` (RFC 6265bis, 4.1.3.2): browsers take it from this very host alone, so
 * that no neighbour below the same domain can put one of theirs in its place. Such a cookie is for every path. Without
 * TLS, on loopback, there is no such name.
 */
const nameFor = (request: FastifyRequest, name: CookieName): string => (request.isSecure ? `__Host-${name}` : name);

export const readCookie = (request: FastifyRequest, name: CookieName): string | undefined =>
  request.cookies[nameFor(request, name)];

export function setCookie(
  request: FastifyRequest,
  reply: FastifyReply,
  name: CookieName,
  value: string,
  { maxAgeMs, sameSite = 'strict' }: { readonly maxAgeMs: number; readonly sameSite?: 'strict' | 'lax' },
): void {
  reply.setCookie(nameFor(request, name), value, {
    path: '/',
    httpOnly: true,
    sameSite,
    secure: request.isSecure,
    maxAge: maxAgeMs / 1000,
  });
}

export function clearCookie(request: FastifyRequest, reply: FastifyReply, name: CookieName): void {
  reply.clearCookie(nameFor(request, name), { path: '/', secure: request.isSecure });
}
