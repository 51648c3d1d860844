import { AppError } from '@porch/wire';
import type { FastifyInstance } from 'fastify';

/** Whether U+0000 is anywhere in it: no record can hold it, and no person types it. */
export function hasNul(value: unknown): boolean {
  if (typeof value === 'string') return value.includes('\u0000');
  if (Array.isArray(value)) return value.some(hasNul);
  if (typeof value !== 'object' || value === null) return false;
  return Object.entries(value).some(([name, part]) => hasNul(name) || hasNul(part));
}

/** Refuses it at the edge, wherever in a request it stands. */
export function refuseNul(app: FastifyInstance): void {
  app.addHook('preValidation', async (request) => {
    if (hasNul(request.body) || hasNul(request.query) || hasNul(request.params)) throw new AppError('INVALID_REQUEST');
  });
}
