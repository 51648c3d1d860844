import type { RunbookAction, RunbookInterpreter, RunbookKind, RunbookParameter } from '@porch/core';
import type { RunbookScope } from '@porch/wire';
import type { z } from 'zod';

/* An action as it is written: everything is text in a field until it is saved. */

export interface ParameterForm {
  name: string;
  label: string;
  kind: RunbookParameter['kind'];
  choices: string;
  first: string;
  isOptional: boolean;
}
export interface ActionForm {
  scope: RunbookScope;
  name: string;
  title: string;
  about: string;
  topic: string;
  kind: RunbookKind;
  interpreter: RunbookInterpreter;
  target: string;
  expectedSeconds: string;
  limitSeconds: string;
  isRisky: boolean;
  needsAdministrator: boolean;
  paths: string;
  services: string;
  undo: string;
  needs: string[];
  parameters: ParameterForm[];
  body: string;
}

export const formOf = (action: RunbookAction | undefined, scope: RunbookScope = 'desk'): ActionForm => ({
  scope,
  ...{ name: action?.name ?? '', title: action?.title ?? '', about: action?.about ?? '', topic: action?.topic ?? '' },
  ...{ kind: action?.kind ?? 'script', interpreter: action?.interpreter ?? 'bash', target: action?.target ?? '' },
  expectedSeconds: String(action?.expectedSeconds ?? 10),
  limitSeconds: String(action?.limitSeconds ?? 300),
  ...{ isRisky: action?.isRisky ?? false, needsAdministrator: action?.rights === 'administrator' },
  ...{ paths: action?.touches.paths.join('\n') ?? '', services: action?.touches.services.join('\n') ?? '' },
  ...{ undo: action?.undo ?? '', needs: [...(action?.needs ?? [])] },
  parameters: (action?.parameters ?? []).map(({ name, label, kind, choices = [], first = '', isOptional = false }) => ({
    ...{ name, label, kind, first, isOptional, choices: choices.join(', ') },
  })),
  body: action?.body ?? '',
});

const partsOf = (text: string, between: RegExp): string[] => text.split(between).flatMap((one) => one.trim() || []);

function parameterOf({ name, label, kind, choices, first, isOptional }: ParameterForm): RunbookParameter {
  const chosen = kind === 'choice' ? partsOf(choices, /,/) : [];
  return {
    ...{ name, label: label.trim() || name, kind },
    ...(chosen.length ? { choices: chosen } : {}),
    ...(first && kind !== 'secret' ? { first } : {}),
    ...(isOptional ? { isOptional: true } : {}),
  };
}

/** What is sent to be saved; what the form does not show of an action stays as it was. */
export function actionFrom(
  form: ActionForm,
  name: string,
  before: RunbookAction | undefined,
): z.input<typeof RunbookAction> {
  const { title, about, topic, kind, interpreter, target, isRisky, needsAdministrator, undo, body } = form;
  return {
    ...{ name, title, about, kind, isRisky, body },
    ...(topic ? { topic } : {}),
    ...(kind === 'script' ? { interpreter } : {}),
    ...(kind === 'file' ? { target } : {}),
    rights: needsAdministrator ? 'administrator' : 'person',
    expectedSeconds: Number(form.expectedSeconds) || 10,
    limitSeconds: Number(form.limitSeconds) || 300,
    touches: {
      paths: partsOf(form.paths, /\n/),
      services: partsOf(form.services, /\n/),
      hasPackages: before?.touches.hasPackages ?? false,
    },
    ...(before ? { platforms: before.platforms } : {}),
    needs: form.needs,
    ...(undo ? { undo } : {}),
    parameters: form.parameters.map(parameterOf),
  };
}
