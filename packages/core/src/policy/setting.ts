import { z } from 'zod';

/** How a value is kept, checked, and written where somebody types it. */
export interface Kind<V> {
  /** What is kept; its messages say what is wrong. */
  readonly schema: z.ZodType<V>;
  /** What somebody typed, not checked yet. Throws when it has another form altogether. */
  fromText(text: string): unknown;
  toText(value: V): string;
}

/** One thing that a desk can set, declared once: everything that shows, checks or uses it reads it here. */
export interface Setting<V> {
  readonly kind: Kind<V>;
  /** As the product comes. */
  readonly first: V;
  readonly unit?: string;
  /** Whether a team may have its own, which then counts for its technicians and their sessions. */
  readonly isTeams?: boolean;
  /** The environment variable that it was before, where it was one: read once, into the database. */
  readonly earlier?: string;
  /** That variable names a file with the value. */
  readonly isEarlierFile?: boolean;
}

export const setting = <const V>(declared: Setting<V>): Setting<V> => declared;

/** A number from `min` to `max`, both counted in. */
export const amount = (min: number, max: number, { isWhole = false } = {}): Kind<number> => ({
  schema: (isWhole ? z.number().int() : z.number()).min(min).max(max),
  // An empty text is no number, whatever the language says.
  fromText: (text) => (text.trim() === '' ? Number.NaN : Number(text)),
  toText: String,
});

export const yesOrNo: Kind<boolean> = {
  schema: z.boolean(),
  fromText: (text) => {
    if (text !== 'yes' && text !== 'no') throw new Error(`“${text}” is neither yes nor no`);
    return text === 'yes';
  },
  toText: (value) => (value ? 'yes' : 'no'),
};

export const oneOf = <const T extends string>(...values: readonly [T, ...T[]]): Kind<T> => ({
  schema: z.enum(values) as unknown as z.ZodType<T>,
  fromText: (text) => text,
  toText: (value) => value,
});

// Nobody reads them, and the database takes no NUL.
const CONTROLS = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]/;
const plain = (max: number) =>
  z
    .string()
    .max(max)
    .refine((text) => !CONTROLS.test(text), 'has characters in it that cannot be shown');

/** A text; `read` throws with what is wrong when it has a form of its own. */
export const text = (max: number, read: (value: string) => unknown = () => undefined): Kind<string> => ({
  schema: plain(max).superRefine((value, { addIssue }) => wrongIn(() => read(value), addIssue)),
  fromText: (value) => value.trim(),
  toText: (value) => value,
});

/** Something with parts, typed as JSON. An empty object is what the product comes with. */
export const document = (
  maxCharacters: number,
  read: (value: unknown) => unknown,
): Kind<Readonly<Record<string, unknown>>> => ({
  schema: z.record(z.string(), z.json()).superRefine((value, { addIssue }) => {
    if (JSON.stringify(value).length > maxCharacters) return addIssue(`is longer than ${maxCharacters} characters`);
    if (!isShowable(value)) return addIssue('has characters in it that cannot be shown');
    if (Object.keys(value).length) wrongIn(() => read(value), addIssue);
  }),
  fromText: (typed) => {
    if (!typed.trim()) return {};
    try {
      return JSON.parse(typed) as unknown;
    } catch (cause) {
      throw new Error(`is no JSON: ${(cause as Error).message}`, { cause });
    }
  },
  toText: (value) => (Object.keys(value).length ? JSON.stringify(value, undefined, 2) : ''),
});

function isShowable(value: unknown): boolean {
  if (typeof value === 'string') return !CONTROLS.test(value);
  return typeof value !== 'object' || value === null || Object.entries(value).flat().every(isShowable);
}

function wrongIn(read: () => unknown, addIssue: (message: string) => void): void {
  try {
    read();
  } catch (error) {
    addIssue((error as Error).message);
  }
}
