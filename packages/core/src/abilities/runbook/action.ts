import { z } from 'zod';

/** A script is run, a file is put somewhere, an instruction is read by people and ticked off. */
export const runbookKinds = ['script', 'file', 'instruction'] as const;
export type RunbookKind = (typeof runbookKinds)[number];
/** Programs that read scripts. They are looked for where the system keeps its own, never where an account may put some. */
export const runbookInterpreters = ['sh', 'bash', 'python3', 'perl'] as const;
export type RunbookInterpreter = (typeof runbookInterpreters)[number];
export const runbookPlatforms = ['linux', 'windows', 'macos'] as const;
export type RunbookPlatform = (typeof runbookPlatforms)[number];
export const parameterKinds = ['text', 'number', 'choice', 'yes-no', 'secret'] as const;

export const MAX_ACTION_CHARACTERS = 30_000;
export const MAX_PARAMETERS = 10;
export const MAX_VALUE_CHARACTERS = 200;
/** Shorter ones could not be told from other words in what a script prints. */
export const LEAST_SECRET_CHARACTERS = 4;
const MAX_CHOICES = 20;
const MAX_NEEDS = 4;
const MAX_TOUCHED = 20;
const MAX_SECONDS = 3_600;

const words = (most: number) => z.string().trim().min(1).max(most);

/** What an action is called in files and by programs. */
export const RunbookName = z
  .string()
  .regex(/^[a-z0-9][a-z0-9-]{0,79}$/, 'small letters, digits and hyphens, 80 at most');

export const RunbookParameter = z.strictObject({
  /** Scripts have it as `GIVEN_` and this in their environment, texts as `{{this}}`. */
  name: z.string().regex(/^[A-Z][A-Z0-9_]{0,29}$/, 'capital letters, digits and underscores, 30 at most'),
  label: words(80),
  kind: z.enum(parameterKinds),
  choices: z.array(words(80)).min(1).max(MAX_CHOICES).optional(),
  /** What stands there at first. */
  first: z.string().max(MAX_VALUE_CHARACTERS).optional(),
  isOptional: z.literal(true).optional(),
});
export type RunbookParameter = z.infer<typeof RunbookParameter>;

/** One action, whole: what is read, approved, hashed and run. */
export const RunbookAction = z.strictObject({
  name: RunbookName,
  title: words(80),
  /** For technicians: what it is for, and what to look at afterwards. */
  about: z.string().trim().max(500).default(''),
  topic: words(80).optional(),
  kind: z.enum(runbookKinds),
  interpreter: z.enum(runbookInterpreters).optional(),
  /** Of a file: where it goes, within the home of the person there. */
  target: words(200).optional(),
  platforms: z.array(z.enum(runbookPlatforms)).min(1).max(runbookPlatforms.length).default(['linux']),
  /** Permissions that have to be there besides the one for the runbook. */
  needs: z.array(words(60)).max(MAX_NEEDS).default([]),
  rights: z.enum(['person', 'administrator']).default('person'),
  /** Something may no longer work after it. */
  isRisky: z.boolean().default(false),
  expectedSeconds: z.int().min(1).max(MAX_SECONDS).default(10),
  limitSeconds: z.int().min(1).max(MAX_SECONDS).default(300),
  /** What is saved before it, where that is allowed. */
  touches: z
    .strictObject({
      paths: z.array(words(200)).max(MAX_TOUCHED).default([]),
      services: z.array(words(160)).max(MAX_TOUCHED).default([]),
      hasPackages: z.boolean().default(false),
    })
    .default({ paths: [], services: [], hasPackages: false }),
  /** The action that takes it back. */
  undo: RunbookName.optional(),
  parameters: z.array(RunbookParameter).max(MAX_PARAMETERS).default([]),
  body: z.string().min(1).max(MAX_ACTION_CHARACTERS),
});
export type RunbookAction = z.infer<typeof RunbookAction>;

/** What can be wrong with an action beside its single fields. */
export const runbookFaults = [
  'no-interpreter',
  'interpreter-for-nothing',
  'no-target',
  'target-for-nothing',
  'target-outside',
  'parameter-twice',
  'choices-missing',
  'choices-for-nothing',
  'first-is-wrong',
  'secret-in-text',
  'no-steps',
  'empty',
  'undoes-itself',
] as const;
export type RunbookFault = (typeof runbookFaults)[number];

const hasControl = (text: string): boolean => /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u2028\u2029]/.test(text);

/** Where nothing is wrong the list is empty. */
export function faultsIn(action: RunbookAction): RunbookFault[] {
  const { kind, interpreter, target, parameters, body } = action;
  const names = parameters.map(({ name }) => name);
  const isFile = kind === 'file';
  const wrong: readonly (readonly [boolean, RunbookFault])[] = [
    [kind === 'script' && interpreter === undefined, 'no-interpreter'],
    [kind !== 'script' && interpreter !== undefined, 'interpreter-for-nothing'],
    [isFile && target === undefined, 'no-target'],
    [!isFile && target !== undefined, 'target-for-nothing'],
    [target !== undefined && !isWithinHome(target), 'target-outside'],
    [new Set(names).size < names.length, 'parameter-twice'],
    [parameters.some((one) => one.kind === 'choice' && !one.choices), 'choices-missing'],
    [parameters.some((one) => one.kind !== 'choice' && one.choices), 'choices-for-nothing'],
    [parameters.some((one) => one.first !== undefined && valueFault(one, one.first) !== undefined), 'first-is-wrong'],
    // What is secret is neither left in a file nor shown in an instruction.
    [kind !== 'script' && parameters.some((one) => one.kind === 'secret'), 'secret-in-text'],
    [kind === 'instruction' && !stepsOf(body).length, 'no-steps'],
    [!body.trim(), 'empty'],
    [action.undo === action.name, 'undoes-itself'],
  ];
  return wrong.filter(([isSo]) => isSo).map(([, fault]) => fault);
}

/** Whether a path is meant within a home: `~/…`, or relative, and nowhere up. */
export function isWithinHome(path: string): boolean {
  const within = path.replace(/^~\//, '');
  const parts = within.split('/');
  if (within.startsWith('~') || hasControl(within) || /[\t\n]/.test(within)) return false;
  return parts.every((part) => part !== '' && part !== '.' && part !== '..');
}

const step = /^[ \t]*[-*] \[ ?\][ \t]+(?<text>\S.*)$/;
/** The steps of an instruction: lines of its Markdown that begin with an empty box. */
export const stepsOf = (body: string): string[] =>
  body.split(/\r?\n/).flatMap((line) => step.exec(line)?.groups?.['text']?.trim() ?? []);

export type RunbookValues = Readonly<Record<string, string>>;
export type ValueFault = 'missing' | 'not-a-number' | 'not-a-choice' | 'too-long' | 'too-short' | 'not-one-line';

/** What is wrong with a value for a parameter; undefined for nothing. */
export function valueFault(parameter: RunbookParameter, value: string): ValueFault | undefined {
  const { kind, choices = [], isOptional } = parameter;
  if (value === '') return isOptional || kind === 'yes-no' ? undefined : 'missing';
  if (value.length > MAX_VALUE_CHARACTERS) return 'too-long';
  if (hasControl(value) || value.includes('\n')) return 'not-one-line';
  if (kind === 'number' && !/^-?\d+(\.\d+)?$/.test(value)) return 'not-a-number';
  if (kind === 'choice' && !choices.includes(value)) return 'not-a-choice';
  if (kind === 'yes-no' && value !== 'yes' && value !== 'no') return 'not-a-choice';
  return kind === 'secret' && value.length < LEAST_SECRET_CHARACTERS ? 'too-short' : undefined;
}

/** A value for every parameter, with what stands there at first where none is given. */
export const valuesFor = ({ parameters }: RunbookAction, given: RunbookValues): RunbookValues =>
  Object.fromEntries(
    parameters.map(({ name, first = '' }) => [name, Object.hasOwn(given, name) ? (given[name] ?? '') : first]),
  );

/** What is wrong with values for an action, by the names of its parameters; a name that it does not have is `unknown`. */
export function valueFaults(action: RunbookAction, given: RunbookValues): Record<string, ValueFault | 'unknown'> {
  const values = valuesFor(action, given);
  const wrong: Record<string, ValueFault | 'unknown'> = {};
  for (const parameter of action.parameters) {
    const fault = valueFault(parameter, values[parameter.name] ?? '');
    if (fault) wrong[parameter.name] = fault;
  }
  for (const name of Object.keys(given)) if (!Object.hasOwn(values, name)) wrong[name] = 'unknown';
  return wrong;
}

/** Before the name of a parameter in a script's environment: nothing else there is called so. */
export const GIVEN = 'GIVEN_';

/** What a script finds in its environment: values, never a part of its text. */
export const environmentOf = (action: RunbookAction, values: RunbookValues): Record<string, string> =>
  Object.fromEntries(action.parameters.map(({ name }) => [GIVEN + name, values[name] ?? '']));

/** A file's or an instruction's text with the values in it, each exactly as it was given, whatever it looks like. */
export const filledIn = (text: string, values: RunbookValues): string =>
  text.replace(/\{\{([A-Z][A-Z0-9_]*)\}\}/g, (all, name: string) =>
    Object.hasOwn(values, name) ? (values[name] ?? '') : all,
  );

/** The values that must be seen by nobody, longest first: one may hold another. */
export const secretsIn = ({ parameters }: RunbookAction, values: RunbookValues): string[] =>
  parameters
    .filter(({ kind }) => kind === 'secret')
    .flatMap(({ name }) => values[name] || [])
    .sort((a, b) => b.length - a.length);

export const COVERED = '•••';
export const withoutSecrets = (text: string, secrets: readonly string[]): string =>
  secrets.reduce((covered, secret) => covered.replaceAll(secret, COVERED), text);

/** The text that stands for an action where it is hashed, sent and run: the same action gives the same text everywhere. */
export const textOfAction = (action: RunbookAction): string => JSON.stringify(inOrder(action));

/** The same with keys in the order of their names, all the way down. */
function inOrder(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inOrder);
  if (typeof value !== 'object' || value === null) return value;
  const entries = Object.entries(value).filter(([, one]) => one !== undefined);
  return Object.fromEntries(entries.sort(([a], [b]) => (a < b ? -1 : 1)).map(([key, one]) => [key, inOrder(one)]));
}

/** Reads such a text; undefined for what is none, or is not whole. */
export function readActionText(text: string): RunbookAction | undefined {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return undefined;
  }
  const read = RunbookAction.safeParse(value);
  return read.success && !faultsIn(read.data).length ? read.data : undefined;
}

/** What came of a run. */
export const RunOutcome = z.enum(['done', 'failed', 'stopped', 'took-too-long', 'broken-off']);
export type RunOutcome = z.infer<typeof RunOutcome>;

/** What the desk is asked for leave of on a device whose label asks for care. */
export const RUN_RISK = 'runbook/run';
