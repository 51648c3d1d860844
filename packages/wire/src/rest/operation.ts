import { z } from 'zod';
import { MAX_PAGE, USUAL_PAGE } from './session-search.ts';

export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';
export const tags = {
  People: 'Signing in, and who works at the desk',
  Porch: 'Everything one technician has before them',
  Sessions: 'Sessions of now and before',
  Invitations: 'Codes, links and messages by which customers come into a session',
  Screenshots: 'Pictures kept in the records of a session',
  'System reports': 'What a customer’s computer said of itself, kept in the records of a session',
  'Careful acts': 'What needs somebody else’s yes, or is looked at afterwards, because of the label of a device',
  Queue: 'Those who wait, and where a technician stands for routing',
  'Known faults': 'Faults that many report, published so that nobody has to wait for them',
  Bookings: 'Sessions at a time agreed beforehand',
  Devices: 'Devices that a customer lets the desk reach',
  Callers: 'Who is on the telephone',
  Knowledge: 'What the desk wrote down about faults',
  'Administrator rights': 'Leave for administrator rights on a customer’s computer',
  Runbook: 'Actions that the desk prepared to be run at customers’ computers',
  Tickets: 'The ticket system of the desk',
  Door: 'The customers’ side',
} as const;
export type Tag = keyof typeof tags;

/** Everything about one thing that REST does: the server serves it, clients call it, and documents describe it by this alone. */
export interface Operation<
  P extends z.ZodType = z.ZodType,
  Q extends z.ZodType = z.ZodType,
  B extends z.ZodType = z.ZodType,
  A extends z.ZodType = z.ZodType,
> {
  readonly id: string;
  readonly tag: Tag;
  readonly method: Method;
  /** Below `/api/v1`, with `{id}` where something of `params` stands. */
  readonly path: string;
  readonly params: P;
  readonly query: Q;
  /** Undefined: none is read. */
  readonly body: B | undefined;
  readonly answer: A;
  readonly status: 200 | 201 | 204;
  /** Whose it is: a technician's who is signed in, a customer's with a pass, or anybody's. */
  readonly who: 'technician' | 'customer' | 'anybody';
  /** The content type of an answer that is no JSON; then `answer` says nothing. */
  readonly file?: string;
  /** Asked again with the same `Idempotency-Key`, it is done once. */
  readonly isOnce?: true;
  /** Its answer has a version (ETag), or the request may demand one (If-Match). */
  readonly version?: 'told' | 'demanded';
  /**
   * How programs of before 2026-12 ask for it, below `/api`: the same path and method unless said otherwise, always 200,
   * moments in milliseconds. A list is bare there, unless it is `paged`.
   */
  readonly old?: { readonly method?: Method; readonly path?: string; readonly isPaged?: true } | 'none';
}
export type AnyOperation = Operation;

type Said<P, Q, B, A> = Partial<Pick<Operation, 'status' | 'file' | 'isOnce' | 'version' | 'old'>> &
  Pick<Operation, 'id' | 'tag' | 'method' | 'path' | 'who'> & {
    readonly params?: P;
    readonly query?: Q;
    readonly body?: B;
    readonly answer?: A;
  };

export const nothing = z.unknown();
const noParams = z.object({});

export function operation<
  P extends z.ZodType = typeof noParams,
  Q extends z.ZodType = typeof noParams,
  B extends z.ZodType = z.ZodUndefined,
  A extends z.ZodType = typeof nothing,
>({ params, query, body, answer, status, ...said }: Said<P, Q, B, A>): Operation<P, Q, B, A> {
  return {
    ...said,
    params: params ?? (noParams as unknown as P),
    query: query ?? (noParams as unknown as Q),
    body,
    answer: answer ?? (nothing as unknown as A),
    status: status ?? (answer || said.file ? 200 : 204),
  };
}

/** Where in a list to go on, and how far. */
export const PageQuery = z.object({
  limit: z.coerce.number().int().min(1).max(MAX_PAGE).default(USUAL_PAGE),
  cursor: z.string().max(200).optional(),
});
export const pageOf = <S extends z.ZodType>(item: S) =>
  z.object({
    items: z.array(item),
    next: z.string().optional(),
  });

/** The path with its parameters, and the query behind it. */
export function addressOf(
  { path }: Pick<Operation, 'path'>,
  params: Readonly<Record<string, unknown>>,
  query: Readonly<Record<string, unknown>>,
): string {
  const filled = path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(String(params[name])));
  const asked = new URLSearchParams();
  for (const [name, value] of Object.entries(query)) if (value !== undefined) asked.set(name, String(value));
  const text = asked.toString();
  return text ? `${filled}?${text}` : filled;
}
