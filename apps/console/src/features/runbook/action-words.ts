import type { RunbookFault } from '@porch/core';
import type { ImportedAction, PackSigner, RunbookActionView } from '@porch/wire';
import { exactly } from '../../times.ts';
import { w } from '../../words/index.ts';
import { oneLine } from '../porch/one-line.ts';

type Whose = Pick<RunbookActionView, 'version' | 'authorName' | 'writtenAtMs' | 'reviewerName' | 'approverName'>;
/** Who wrote a version, who read it, who put it into use. */
export function whoOf({
  version,
  authorName: author,
  writtenAtMs,
  reviewerName: reviewer,
  approverName: approver,
}: Whose): string {
  const { runbook } = w.value;
  const wrote = { version: String(version), author, when: exactly(writtenAtMs) };
  if (reviewer && approver) return runbook.approvedBy({ ...wrote, reviewer, approver });
  return reviewer ? runbook.reviewedBy({ ...wrote, reviewer }) : runbook.draftBy(wrote);
}

/** Beneath an action's title: what it is, whose, and what there is to know before it is run. */
export function aboutAction(action: RunbookActionView): string {
  const { runbook } = w.value;
  const { kind, topic, scope, isRisky, needsAdministrator } = action;
  return oneLine(
    ...[runbook.kinds[kind], topic ?? runbook.noTopic, runbook.scopes[scope]],
    ...[isRisky ? runbook.risky : '', needsAdministrator ? runbook.needsAdministrator : '', whoOf(action)],
  );
}

const isFault = (why: string, faults: object): why is RunbookFault => Object.hasOwn(faults, why);
/** What became of a file of a pack. */
export function resultOf({ file, result, why }: ImportedAction): string {
  const { runbook } = w.value;
  if (result !== 'refused' || why === undefined)
    return runbook[result === 'unchanged' ? 'unchanged' : 'drafted']({ file });
  return runbook.refused({ file, why: isFault(why, runbook.faults) ? runbook.faults[why] : runbook.whyRefused[why] });
}

export function signerOf({ who, key = '' }: PackSigner): string {
  const { signers } = w.value.runbook;
  return who === 'somebody' ? signers.somebody({ key }) : signers[who];
}
