import { Language, languageOfTag, languages, languageTags } from '@porch/core';
import { z } from 'zod';
import { InEveryLanguage } from './in-every-language.ts';
import { Moment } from './moment.ts';

/**
 * How a schema looks on its way over REST: moments are ISO 8601 in UTC, and their names lose the unit (`startsAtMs` is
 * `startsAt`); languages have the tags of BCP 47 (`nb`). All the rest stays as it is.
 */
export interface IsoForm {
  readonly schema: z.ZodType;
  /** From what our programs have to what is sent. Both take only what their schema has taken. */
  toIso(value: unknown): unknown;
  fromIso(value: unknown): unknown;
}

const isoMoment = z.iso.datetime({ offset: true });
const asIs = (schema: z.ZodType): IsoForm => ({ schema, toIso: (value) => value, fromIso: (value) => value });
const moment: IsoForm = {
  schema: isoMoment,
  toIso: (value) => new Date(value as number).toISOString(),
  fromIso: (value) => Date.parse(value as string),
};

const tags = languages.map((language) => languageTags[language]);
const language: IsoForm = {
  schema: z.enum(tags as [string, ...string[]]),
  toIso: (value) => languageTags[value as Language],
  fromIso: (value) => languageOfTag(value as string),
};
const inEveryLanguage: IsoForm = {
  schema: z.object(Object.fromEntries(tags.map((tag) => [tag, z.string()]))),
  toIso: (value) =>
    Object.fromEntries(languages.map((one) => [languageTags[one], (value as Record<Language, string>)[one]])),
  fromIso: (value) =>
    Object.fromEntries(languages.map((one) => [one, (value as Record<string, string>)[languageTags[one]]])),
};

const names = new WeakMap<z.ZodType, string>();
const forms = new WeakMap<z.ZodType, IsoForm>();

/** Gives a schema the name under which documents of the API show it. */
export function named<S extends z.ZodType>(name: string, schema: S): S {
  names.set(schema, name);
  return schema;
}

export function isoForm(schema: z.ZodType): IsoForm {
  const known = forms.get(schema);
  if (known) return known;
  const plain = makeForm(schema);
  const name = names.get(schema);
  const form = name === undefined ? plain : { ...plain, schema: plain.schema.meta({ id: name }) };
  forms.set(schema, form);
  return form;
}

function makeForm(schema: z.ZodType): IsoForm {
  if (schema === Moment) return moment;
  if (schema === Language) return language;
  if (schema === InEveryLanguage) return inEveryLanguage;
  if (schema instanceof z.ZodDefault) {
    const inner = isoForm(schema.unwrap() as z.ZodType);
    if (inner.schema === schema.unwrap()) return asIs(schema);
    return { ...inner, schema: inner.schema.default(inner.toIso(schema.def.defaultValue) as never) };
  }
  if (schema instanceof z.ZodObject) return objectForm(schema);
  if (schema instanceof z.ZodArray) {
    const item = isoForm(schema.element as z.ZodType);
    if (item.schema === schema.element) return asIs(schema);
    // A list may have limits of its own, which hold for its form as well.
    const form = schema.clone({ ...schema.def, element: item.schema });
    return {
      schema: form,
      toIso: (value) => (value as unknown[]).map(item.toIso),
      fromIso: (value) => (value as unknown[]).map(item.fromIso),
    };
  }
  if (schema instanceof z.ZodOptional) {
    const inner = isoForm(schema.unwrap() as z.ZodType);
    if (inner.schema === schema.unwrap()) return asIs(schema);
    const unlessMissing = (map: (value: unknown) => unknown) => (value: unknown) =>
      value === undefined ? undefined : map(value);
    return {
      schema: inner.schema.optional(),
      toIso: unlessMissing(inner.toIso),
      fromIso: unlessMissing(inner.fromIso),
    };
  }
  return asIs(schema);
}

function objectForm(schema: z.ZodObject): IsoForm {
  const parts = Object.entries(schema.shape as Record<string, z.ZodType>).map(([key, part]) => {
    const inner = part instanceof z.ZodOptional ? (part.unwrap() as z.ZodType) : part;
    return { key, isoKey: inner === Moment ? key.replace(/Ms$/, '') : key, form: isoForm(part) };
  });
  if (parts.every(({ key, isoKey, form }) => key === isoKey && form.schema === schema.shape[key])) return asIs(schema);
  const mapped =
    (from: 'key' | 'isoKey', to: 'key' | 'isoKey', how: 'toIso' | 'fromIso') =>
    (value: unknown): unknown => {
      const given = value as Record<string, unknown>;
      return Object.fromEntries(
        parts.flatMap((part) =>
          given[part[from]] === undefined ? [] : [[part[to], part.form[how](given[part[from]])]],
        ),
      );
    };
  const isStrict = schema.def.catchall instanceof z.ZodNever;
  const shape = Object.fromEntries(parts.map(({ isoKey, form }) => [isoKey, form.schema]));
  return {
    schema: isStrict ? z.strictObject(shape) : z.object(shape),
    toIso: mapped('key', 'isoKey', 'toIso'),
    fromIso: mapped('isoKey', 'key', 'fromIso'),
  };
}
