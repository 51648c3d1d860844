import { AppError, errorWords, type ErrorCode } from '@porch/wire';
import type { FastifyError, FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { hasZodFastifySchemaValidationErrors } from 'fastify-type-provider-zod';
import { isConnectionTrouble } from '../db/connection-trouble.ts';
import { refusalOf } from '../refusal-of.ts';
import { mayBeRefusedWith } from './refusals.ts';

interface Failure {
  readonly code: ErrorCode;
  readonly status: number;
  /** Beyond what the code says by itself. */
  readonly more?: string;
  readonly details?: Readonly<Record<string, unknown>>;
}

/** The one place where a failure becomes an HTTP reply. Nothing that was sent to us is repeated back. */
export function addErrorReplies(app: FastifyInstance, onRefused: (code: string) => void): void {
  app.setErrorHandler((failure: FastifyError | AppError, request, reply) => {
    const found = failureOf(isConnectionTrouble(failure) ? refusalOf(failure) : failure);
    if (found.code === 'INTERNAL') request.log.error({ err: failure }, 'a request failed');
    else onRefused(found.code);
    const { operation } = request.routeOptions.config;
    if (operation && !mayBeRefusedWith(operation, found.code))
      request.log.error(`${operation.id} was refused with ${found.code}, of which the contract says nothing`);
    return send(request, reply, found);
  });
}

function failureOf(error: FastifyError | AppError): Failure {
  if (error instanceof AppError) return { code: error.code, status: error.spec.status, details: error.details };
  if (hasZodFastifySchemaValidationErrors(error)) {
    const where = error.validation.map((v) => `${v.instancePath.slice(1) || 'body'}: ${v.message}`).slice(0, 5);
    return { code: 'INVALID_REQUEST', status: 400, more: ` (${where.join('; ')})` };
  }
  const status = error.statusCode ?? 500;
  if (status === 429) return { code: 'TOO_MANY_ATTEMPTS', status };
  if (status === 413) return { code: 'MESSAGE_TOO_LARGE', status };
  return status < 500 ? { code: 'INVALID_REQUEST', status } : { code: 'INTERNAL', status: 500 };
}

/** As a problem (RFC 9457) under /api/v1; as it always was for programs of before. */
function send(request: FastifyRequest, reply: FastifyReply, { code, status, more = '', details = {} }: Failure) {
  const message = errorWords[code] + more;
  const retry = details['retryAfterSeconds'];
  if (typeof retry === 'number') reply.header('retry-after', retry);
  if (!request.url.startsWith('/api/v1/')) return reply.code(status).send({ code, message, details });
  return (
    reply
      .code(status)
      .type('application/problem+json; charset=utf-8')
      // It is no answer of the operation's own, and has no schema of its own.
      .serializer((value: unknown) => JSON.stringify(value))
      .send({
        type: `/api/docs#${code}`,
        title: errorWords[code],
        status,
        detail: message,
        instance: `urn:uuid:${request.id}`,
        code,
        ...(Object.keys(details).length ? { details } : {}),
      })
  );
}
