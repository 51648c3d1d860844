import type { Outcome } from '@porch/core';

/** What a technician calls how a session went. */
export const outcomeLabels: Readonly<Record<Outcome, string>> = {
  resolved: 'Resolved',
  'worked-around': 'Worked around',
  escalated: 'Escalated',
  'follow-up': 'Follow-up needed',
  'not-resolved': 'Not resolved',
  'customer-left': 'Customer left',
  'suspected-fraud': 'Suspected fraud',
};
