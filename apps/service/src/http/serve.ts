import type { Action } from '@porch/core';
import { isoForm, type AnyOperation, type Operation } from '@porch/wire';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { z } from 'zod';
import { etagOf, wantedVersion } from './versions.ts';
import type { OnceAnswers } from './once-answers.ts';

export const V1 = '/v1';

declare module 'fastify' {
  interface FastifyInstance {
    onceAnswers: OnceAnswers;
  }
  interface FastifyContextConfig {
    /** What of the contract this route is; missing on what serves programs of before. */
    operation?: AnyOperation;
    /** No technician's: whoever calls it shows for themselves who they are, if they have to. */
    isOpen?: true;
  }
}

type Infer<S> = S extends z.ZodType ? z.output<S> : undefined;
type CallOf<O> =
  O extends Operation<infer P, infer Q, infer B, z.ZodType>
    ? {
        readonly params: Infer<P>;
        readonly query: Infer<Q>;
        readonly body: Infer<B>;
        readonly request: FastifyRequest;
        readonly reply: FastifyReply;
        /** The version that the caller has seen, where they demand it: another one is CHANGED_MEANWHILE. */
        readonly seen: string | undefined;
      }
    : never;
type AnswerOf<O> = O extends Operation<z.ZodType, z.ZodType, z.ZodType, infer A> ? z.input<A> : never;

interface More<A = unknown> {
  /** Of the table of persons, actions and things; none: it is no technician's. */
  readonly may?: Action;
  readonly bodyLimit?: number;
  readonly rateLimit?: { readonly max: number; readonly timeWindow: number };
  /** What this answer's version is, where it has one that means more than its text. */
  versionOf?(answer: A): string;
}
/** Lists are whole for programs that know of no pages. */
const WHOLE = 100_000;

/** Serves an operation of the contract, and the same as programs of before ask for it. */
export function serve<O extends AnyOperation>(
  app: FastifyInstance,
  operation: O,
  more: More<AnswerOf<O>>,
  handler: (call: CallOf<O>) => Promise<AnswerOf<O>> | AnswerOf<O>,
): void {
  if ((more.may === undefined) === (operation.who === 'technician'))
    throw new Error(`${operation.id}: whether it is a technician's, and what they do by it, contradict each other`);
  const handle = handler as (call: unknown) => unknown;
  serveV1(app, operation, more as More, handle);
  if (operation.old !== 'none') serveOld(app, operation, more as More, handle);
}

const routeOf = (path: string): string => path.replace(/\{(\w+)\}/g, ':$1');
const sendFile = (reply: FastifyReply, file: string, value: unknown) =>
  reply.type(file.startsWith('text/') ? `${file}; charset=utf-8` : file).send(value);
const configOf = ({ may, rateLimit }: More) => ({
  ...(may ? { may } : { isOpen: true as const }),
  ...(rateLimit ? { rateLimit } : {}),
});

function serveV1(app: FastifyInstance, operation: AnyOperation, more: More, handle: (call: unknown) => unknown): void {
  const { method, path, params, query, body, answer, status, file, isOnce, version } = operation;
  const [asked, said, told] = [isoForm(query), body && isoForm(body), isoForm(answer)];
  const isJson = !file && status !== 204;
  app.route({
    method,
    url: V1 + routeOf(path),
    ...(more.bodyLimit ? { bodyLimit: more.bodyLimit } : {}),
    config: { ...configOf(more), operation },
    schema: {
      params,
      querystring: asked.schema,
      ...(said ? { body: said.schema } : {}),
      ...(isJson ? { response: { [status]: told.schema } } : {}),
    },
    handler: async (request, reply) => {
      const answered = async () => {
        const value = await handle({
          params: request.params,
          query: asked.fromIso(request.query),
          body: said?.fromIso(request.body),
          request,
          reply,
          seen: version === 'demanded' ? wantedVersion(request) : undefined,
        });
        if (version) reply.header('etag', more.versionOf?.(value) ?? etagOf(value));
        return isJson ? told.toIso(value) : value;
      };
      const value = isOnce ? await app.onceAnswers.once(request, operation.id, answered) : await answered();
      if (reply.sent) return reply;
      if (file) return sendFile(reply, file, value);
      if (status === 204) return reply.code(204).send();
      return reply.code(status).send(value);
    },
  });
}

function serveOld(app: FastifyInstance, operation: AnyOperation, more: More, handle: (call: unknown) => unknown): void {
  const { params, query, body, answer, file, status } = operation;
  const old = operation.old === 'none' ? {} : (operation.old ?? {});
  const isList = answer instanceof z.ZodObject && 'items' in answer.shape;
  const isBare = isList && !old.isPaged;
  const isJson = !file && status !== 204;
  const listOf = isBare ? (answer.shape['items'] as z.ZodType) : answer;
  app.route({
    method: old.method ?? operation.method,
    url: routeOf(old.path ?? operation.path),
    ...(more.bodyLimit ? { bodyLimit: more.bodyLimit } : {}),
    config: configOf(more),
    schema: {
      params,
      querystring: query,
      ...(body ? { body } : {}),
      ...(isJson ? { response: { 200: listOf } } : {}),
    },
    handler: async (request, reply) => {
      const value = await handle({
        params: request.params,
        query: isBare ? { ...(request.query as object), limit: WHOLE } : request.query,
        body: request.body,
        request,
        reply,
        seen: undefined,
      });
      if (reply.sent) return reply;
      if (file) return sendFile(reply, file, value);
      return reply.send(isBare ? (value as { items: unknown }).items : (value ?? {}));
    },
  });
}
