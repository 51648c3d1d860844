import { AppError, errorCatalogue } from '@porch/wire';
import type { FastifyError, FastifyInstance } from 'fastify';
import { hasZodFastifySchemaValidationErrors } from 'fastify-type-provider-zod';
import { isConnectionTrouble } from '../db/connection-trouble.ts';
import { refusalOf } from '../refusal-of.ts';

/** The one place where a failure becomes an HTTP reply. Nothing that was sent to us is repeated back. */
export function addErrorReplies(app: FastifyInstance, onRefused: (code: string) => void): void {
  app.setErrorHandler((failure: FastifyError | AppError, request, reply) => {
    const error = isConnectionTrouble(failure) ? refusalOf(failure) : failure;
    if (error instanceof AppError) {
      onRefused(error.code);
      const retry = error.details['retryAfterSeconds'];
      if (typeof retry === 'number') reply.header('retry-after', retry);
      return reply.code(error.spec.status).send({ code: error.code, message: error.message, details: error.details });
    }
    if (hasZodFastifySchemaValidationErrors(error)) {
      const where = error.validation.map((v) => `${v.instancePath.slice(1) || 'body'}: ${v.message}`).slice(0, 5);
      return reply
        .code(400)
        .send({ code: 'INVALID_REQUEST', message: `${errorCatalogue.INVALID_REQUEST.message} (${where.join('; ')})` });
    }
    const status = (error as FastifyError).statusCode ?? 500;
    if (status === 429)
      return reply.code(429).send({ code: 'TOO_MANY_ATTEMPTS', message: errorCatalogue.TOO_MANY_ATTEMPTS.message });
    if (status === 413)
      return reply.code(413).send({ code: 'MESSAGE_TOO_LARGE', message: errorCatalogue.MESSAGE_TOO_LARGE.message });
    if (status < 500)
      return reply.code(status).send({ code: 'INVALID_REQUEST', message: errorCatalogue.INVALID_REQUEST.message });
    request.log.error({ err: error }, 'a request failed');
    return reply.code(500).send({ code: 'INTERNAL', message: errorCatalogue.INTERNAL.message });
  });
}
