import type { Policy } from './policy.ts';
import type { SettingName } from './settings.ts';

/** Settings that cannot both be meant, or that speak of what is not there. */
export interface Contradiction {
  readonly settings: readonly SettingName[];
  readonly words: string;
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
        words: 'a code would be over before it gets new digits',
      }
    : undefined;

const bundleNobodyMayAsk: Rule = ({ bundles, askLimits }) => {
  const forbidden = new Set(askLimits.filter(({ who }) => who === '*').flatMap(({ permissions }) => permissions));
  const bundle = bundles.find(({ permissions }) => permissions.some((p) => forbidden.has(p)));
  return (
    bundle && {
      settings: ['bundles', 'may-not-ask'],
      words: `“${bundle.name}” asks for ${bundle.permissions.filter((p) => forbidden.has(p)).join(', ')}, which nobody may ask`,
    }
  );
};

const limitOfNobody: Rule = ({ askLimits }, { teams }) => {
  const unknown = askLimits.find(({ who }) => who !== '*' && !roles.includes(who) && !teams.includes(who));
  return unknown && { settings: ['may-not-ask'], words: `there is no team and no role “${unknown.who}”` };
};

const signInNowhere: Rule = ({ requestsNeedSignIn }, { hasDirectory }) =>
  requestsNeedSignIn && !hasDirectory
    ? {
        settings: ['requests-signed-in'],
        words: 'nobody could ask for help: there is no directory to sign in at; set PORCH_DIRECTORY_URL first',
      }
    : undefined;

const rules: readonly Rule[] = [rotatesTooLate, bundleNobodyMayAsk, limitOfNobody, signInNowhere];

export const contradictionsIn = (policy: Policy, around: Surroundings): Contradiction[] =>
  rules.flatMap((rule) => rule(policy, around) ?? []);
