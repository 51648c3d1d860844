import { errorCatalogue, errorWords, tags, type ErrorCode } from '@porch/wire';
import { escapeHtml } from './escape-html.ts';
import type { openApiOf } from './openapi.ts';
import { always, ofTechnicians } from './refusals.ts';

type Document = ReturnType<typeof openApiOf>;
type Schema = Readonly<Record<string, unknown>>;

const text = (value: unknown): string => escapeHtml(String(value));
/** What stands between backticks is code. */
const withCode = (value: string): string => text(value).replace(/`([^`]+)`/g, '<code>$1</code>');
const prose = (value: string): string =>
  value
    .split('\n\n')
    .map((part) => `<p>${withCode(part)}</p>`)
    .join('');

const STYLE = `
:root { color-scheme: light dark; font: 16px/1.5 system-ui, sans-serif; }
body { margin: 0 auto; max-width: 60rem; padding: 1.5rem 1rem 4rem; }
h1, h2, h3 { line-height: 1.2; } h2 { margin-top: 3rem; } h3 { margin: 0; font-size: 1.05rem; overflow-wrap: anywhere; }
article { border-top: 1px solid #8885; padding: 1rem 0; }
code, .path { font-family: ui-monospace, monospace; font-size: .95em; overflow-wrap: anywhere; }
.method { font-weight: 700; margin-right: .5ch; }
table { border-collapse: collapse; } th { white-space: nowrap; overflow-wrap: normal; } th code { overflow-wrap: normal; } th, td { text-align: left; vertical-align: top; padding: .25rem .75rem .25rem 0; }
@media (max-width: 40rem) { table, tbody, tr, th, td { display: block; } tr { margin-bottom: .75rem; } th, td { padding: 0; overflow-wrap: anywhere; } td:empty { display: none; } }
dt { font-weight: 600; font-family: ui-monospace, monospace; } dd { margin: 0 0 .5rem; }`;

/** The API for people to read: one page without a script, from the document that programs read. */
export function docsPage(document: Document): string {
  const operations = Object.entries(document.paths ?? {}).flatMap(([path, item]) =>
    Object.entries(item as Record<string, Operation>).map(([method, operation]) => ({ path, method, operation })),
  );
  const sections = Object.entries(tags).map(([tag, about]) => {
    const own = operations.filter(({ operation }) => operation.tags.includes(tag));
    return `<section><h2 id="${text(idOf(tag))}">${text(tag)}</h2><p>${text(about)}.</p>${own.map(article).join('')}</section>`;
  });
  const schemas = Object.entries((document.components?.schemas ?? {}) as Record<string, Schema>).map(
    ([name, schema]) => `<article><h3 id="schema-${text(name)}">${text(name)}</h3>${fieldsOf(schema)}</article>`,
  );
  const codes = Object.entries(errorCatalogue).map(
    ([code, { status }]) => `<dt id="${code}">${code} (${status})</dt><dd>${text(errorWords[code as ErrorCode])}.</dd>`,
  );
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Zesty Porch: the API</title><style>${STYLE}</style></head><body><header><h1>Zesty Porch: the API</h1>${prose(document.info.description ?? '')}<p>Anything may be refused with ${linksTo(usual)}.</p><p>The same for programs: <a href="/api/v1/openapi.json">OpenAPI 3.1</a>.</p><nav aria-label="Parts"><ul>${Object.keys(
    tags,
  )
    .map((tag) => `<li><a href="#${text(idOf(tag))}">${text(tag)}</a></li>`)
    .join(
      '',
    )}<li><a href="#shapes">Shapes</a></li><li><a href="#codes">Refusals</a></li></ul></nav></header><main>${sections.join('')}<section><h2 id="shapes">Shapes</h2>${schemas.join('')}</section><section><h2 id="codes">Refusals</h2><dl>${codes.join('')}</dl></section></main></body></html>`;
}

interface Operation {
  readonly tags: readonly string[];
  readonly operationId: string;
  readonly summary: string;
  readonly description: string;
  readonly parameters?: readonly {
    name: string;
    in: string;
    required?: boolean;
    schema: Schema;
    description?: string;
  }[];
  readonly requestBody?: { readonly content: Readonly<Record<string, { readonly schema: Schema }>> };
  readonly responses: Readonly<
    Record<string, { description: string; content?: Readonly<Record<string, { readonly schema: Schema }>> }>
  >;
}
/** Said once, at the top. */
const usual: ReadonlySet<string> = new Set([...always, ...ofTechnicians]);
const linksTo = (codes: Iterable<string>): string =>
  [...codes].map((code) => `<a href="#${code}"><code>${code}</code></a>`).join(', ');
const idOf = (tag: string): string => tag.toLowerCase().replaceAll(' ', '-');

function article({ path, method, operation }: { path: string; method: string; operation: Operation }): string {
  const { operationId, summary, description, parameters = [], requestBody, responses } = operation;
  const asked = parameters.map(
    (p) =>
      `<tr><th scope="row"><code>${text(p.name)}</code></th><td>${text(p.in)}${p.required ? ', needed' : ''}</td><td>${typeOf(p.schema)}</td><td>${withCode(p.description ?? '')}</td></tr>`,
  );
  const [body] = Object.values(requestBody?.content ?? {});
  const [status, answer] = Object.entries(responses).find(([code]) => code.startsWith('2')) ?? [];
  const [[type, told] = []] = Object.entries(answer?.content ?? {});
  const refusals = Object.entries(responses)
    .filter(([code]) => !code.startsWith('2'))
    .flatMap(([, { description: words }]) => words.match(/^[A-Z_]+(?=:|$)/gm) ?? [])
    .filter((code) => !usual.has(code));
  return `<article><h3 id="${text(operationId)}"><span class="method">${text(method.toUpperCase())}</span><span class="path">${text(path)}</span></h3><p>${text(summary)}</p>${description === `${summary}.` ? '' : prose(description)}${asked.length ? `<table><tbody>${asked.join('')}</tbody></table>` : ''}${body ? `<p>Takes ${typeOf(body.schema)}${fieldsOf(body.schema)}</p>` : ''}<p>Answers ${text(status ?? '')}${told ? ` with ${type === 'application/json' ? typeOf(told.schema) : `<code>${text(type ?? '')}</code>`}` : ''}.${refusals.length ? ` Refused with ${linksTo(refusals)}.` : ''}</p></article>`;
}

function typeOf(schema: Schema): string {
  const reference = schema['$ref'];
  if (typeof reference === 'string') {
    const name = reference.split('/').at(-1) ?? '';
    return `<a href="#schema-${text(name)}">${text(name)}</a>`;
  }
  if (Array.isArray(schema['enum']))
    return (schema['enum'] as unknown[]).map((v) => `<code>${text(v)}</code>`).join(' | ');
  const items = (schema['properties'] as Record<string, Schema> | undefined)?.['items'];
  if (items) return `a page of ${typeOf((items['items'] ?? {}) as Schema)}`;
  if (schema['type'] === 'array') return `list of ${typeOf((schema['items'] ?? {}) as Schema)}`;
  const either = (schema['anyOf'] ?? schema['oneOf']) as Schema[] | undefined;
  if (either) return either.map(typeOf).join(' | ');
  return text([schema['type'] ?? 'anything', schema['format']].filter(Boolean).join(', '));
}

function fieldsOf(schema: Schema): string {
  const fields = schema['properties'] as Record<string, Schema> | undefined;
  if (!fields) return schema['$ref'] ? '' : `<p>${typeOf(schema)}</p>`;
  const needed = (schema['required'] ?? []) as string[];
  const rows = Object.entries(fields).map(
    ([name, field]) =>
      `<tr><th scope="row"><code>${text(name)}</code></th><td>${typeOf(field)}</td><td>${needed.includes(name) ? '' : 'may be missing'}</td><td>${text(field['description'] ?? '')}</td></tr>`,
  );
  return `<table><tbody>${rows.join('')}</tbody></table>`;
}
