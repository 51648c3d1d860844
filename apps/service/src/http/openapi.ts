import {
  api,
  apiWords,
  errorCatalogue,
  errorWords,
  isoForm,
  parameterWords,
  tags,
  type AnyOperation,
  type ErrorCode,
  type OperationWords,
} from '@porch/wire';
import { z } from 'zod';
import { createDocument, type ZodOpenApiOperationObject, type ZodOpenApiResponseObject } from 'zod-openapi';
import { ONCE_KEY } from './once-answers.ts';
import { refusalsOf } from './refusals.ts';
import { V1 } from './serve.ts';
import { MOST_ETAG } from './versions.ts';

const JSON_TYPE = 'application/json';
const signedIn = [{ token: [] }, { cookie: [] }];
const withPass = [{ token: [] }, { doorCookie: [] }];
const securityOf = { technician: signedIn, customer: withPass, anybody: [] } as const;

const Problem = z
  .object({
    type: z.string().describe('Where it is explained'),
    title: z.string(),
    status: z.int(),
    detail: z.string().describe('What is wrong, and what to do'),
    instance: z.string().describe('This one, as the log of the service calls it'),
    code: z.enum(Object.keys(errorCatalogue) as [ErrorCode, ...ErrorCode[]]).describe('Never renamed'),
    details: z.record(z.string(), z.unknown()).optional(),
  })
  .meta({ id: 'Problem', description: 'A refusal (RFC 9457)' });

/** The API as an OpenAPI document, from the contract alone. */
export function openApiOf(publicUrl: string) {
  const paths: Record<string, Record<string, ZodOpenApiOperationObject>> = {};
  for (const [name, operation] of Object.entries(api)) {
    const { path, method } = operation;
    const words = apiWords[name as keyof typeof api];
    paths[path] = { ...paths[path], [method.toLowerCase()]: describe(operation, words) };
  }
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Zesty Porch',
      version: '1.0.0',
      description:
        'Attended support sessions: from a ticket, the queue or a one-time code to an outcome, with the consent of the customer.\n\nMoments are ISO 8601 in UTC. Lists come in pages: ask again with `cursor` = `next`. Refusals are problems (RFC 9457) with a `code` that never changes. What creates something takes an `Idempotency-Key`, and is done once for each; what is edited has an `ETag`, and takes `If-Match`.',
      license: { name: 'Proprietary', url: `${publicUrl}/api/docs` },
      contact: { name: 'Whoever runs this service', url: publicUrl },
    },
    servers: [{ url: `${publicUrl}/api${V1}` }],
    tags: Object.entries(tags)
      .sort()
      .map(([name, description]) => ({ name, description })),
    paths,
    components: {
      securitySchemes: {
        token: { type: 'http', scheme: 'bearer', description: 'From `signIn`, or from `join` for customers' },
        cookie: { type: 'apiKey', in: 'cookie', name: 'porch_console', description: 'Set by `signIn` for pages' },
        doorCookie: { type: 'apiKey', in: 'cookie', name: 'porch_door', description: 'Set by `join` for pages' },
      },
    },
  });
}

function describe(operation: AnyOperation, { summary, description }: OperationWords): ZodOpenApiOperationObject {
  const { id, tag, body, params, query, status, answer, file, version, who } = operation;
  return {
    operationId: id,
    tags: [tag],
    summary,
    description: description ?? `${summary}.`,
    security: [...securityOf[who]],
    requestParams: {
      path: described(params),
      query: described(isoForm(query).schema),
      ...headersOf(operation),
    },
    ...(body ? { requestBody: { required: true, content: { [JSON_TYPE]: { schema: isoForm(body).schema } } } } : {}),
    responses: {
      [`${status}`]: {
        description: status === 204 ? 'Done' : status === 201 ? 'Made' : 'The answer',
        ...(version ? { headers: z.object({ etag: z.string().describe('Its version') }) } : {}),
        ...(status === 204 ? {} : { content: contentOf(file, answer) }),
      },
      ...problemsOf(operation),
    },
  };
}

const contentOf = (file: string | undefined, answer: z.ZodType) =>
  file
    ? { [file]: { schema: { type: 'string' as const, ...(file.startsWith('image/') ? { format: 'binary' } : {}) } } }
    : { [JSON_TYPE]: { schema: isoForm(answer).schema } };

/** With a word on each, and a refusal to start where there is none. */
function described(schema: z.ZodType): z.ZodObject {
  const { shape } = schema as z.ZodObject;
  return z.object(
    Object.fromEntries(
      Object.entries(shape as Record<string, z.ZodType>).map(([name, part]) => {
        const words = parameterWords[name];
        if (words === undefined) throw new Error(`documents of the API say nothing of the parameter ${name}`);
        return [name, part.describe(words)];
      }),
    ),
  );
}

function headersOf({ isOnce, version }: AnyOperation): { header?: z.ZodObject } {
  if (isOnce)
    return {
      header: z.object({
        'Idempotency-Key': z
          .string()
          .min(ONCE_KEY.least)
          .max(ONCE_KEY.most)
          .optional()
          .describe('Asked again with the same, it is done once and answered as before; for a day'),
      }),
    };
  if (version !== 'demanded') return {};
  return {
    header: z.object({
      'If-Match': z
        .string()
        .max(MOST_ETAG)
        .optional()
        .describe('The ETag that one has seen: another one is CHANGED_MEANWHILE'),
    }),
  };
}

function problemsOf(operation: AnyOperation): Record<string, ZodOpenApiResponseObject> {
  const byStatus = new Map<number, ErrorCode[]>();
  for (const code of refusalsOf(operation)) {
    const { status } = errorCatalogue[code];
    byStatus.set(status, [...(byStatus.get(status) ?? []), code]);
  }
  return Object.fromEntries(
    [...byStatus].map(([status, codes]) => [
      `${status}`,
      {
        description: codes.map((code) => `${code}: ${errorWords[code]}`).join('\n\n'),
        content: { 'application/problem+json': { schema: Problem } },
      },
    ]),
  );
}
