import { speechOf } from '@porch/words';
import type { SettingsWords } from '@porch/words/settings/shape';
import type { Policy } from './policy.ts';
import type { SettingName } from './settings.ts';

/** Settings that cannot both be meant, or that speak of what is not there. */
export interface Contradiction {
  readonly settings: readonly SettingName[];
  /** The team or role that is named and does not exist. */
  readonly nobody?: string;
  /** What is wrong, in somebody's language. */
  readonly words: (said: SettingsWords) => string;
}
/** What a desk has beside its settings. */
export interface Surroundings {
  readonly teams: readonly string[];
  readonly hasDirectory: boolean;
}
type Rule = (policy: Policy, around: Surroundings) => Contradiction | undefined;

const roles = ['technician', 'trainee', 'lead'];

const rotatesTooLate: Rule = ({ codeRotateMs, codeLifetimeMs }) =>
  codeRotateMs > 0 && codeRotateMs >= codeLifetimeMs
    ? {
        settings: ['code-rotate-minutes', 'code-minutes'],
        words: ({ wrong }) => wrong.rotatesTooLate,
      }
    : undefined;

const bundleNobodyMayAsk: Rule = ({ bundles, askLimits }) => {
  const forbidden = new Set(askLimits.filter(({ who }) => who === '*').flatMap(({ permissions }) => permissions));
  const bundle = bundles.find(({ permissions }) => permissions.some((p) => forbidden.has(p)));
  return (
    bundle && {
      settings: ['bundles', 'may-not-ask'],
      words: ({ wrong, language }) =>
        wrong.bundleNobodyMayAsk({
          bundle: bundle.name,
          permissions: speechOf(language).list(bundle.permissions.filter((p) => forbidden.has(p))),
        }),
    }
  );
};

const limitOfNobody: Rule = ({ askLimits }, { teams }) => {
  const unknown = askLimits.find(({ who }) => who !== '*' && !roles.includes(who) && !teams.includes(who));
  return (
    unknown && {
      settings: ['may-not-ask'],
      nobody: unknown.who,
      words: ({ wrong }) => wrong.limitOfNobody({ who: unknown.who }),
    }
  );
};

const signInNowhere: Rule = ({ requestsNeedSignIn }, { hasDirectory }) =>
  requestsNeedSignIn && !hasDirectory
    ? {
        settings: ['requests-signed-in'],
        words: ({ wrong }) => wrong.signInNowhere,
      }
    : undefined;

const rules: readonly Rule[] = [rotatesTooLate, bundleNobodyMayAsk, limitOfNobody, signInNowhere];

export const contradictionsIn = (policy: Policy, around: Surroundings): Contradiction[] =>
  rules.flatMap((rule) => rule(policy, around) ?? []);
