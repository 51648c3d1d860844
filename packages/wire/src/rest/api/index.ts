import type { AnyOperation } from '../operation.ts';
import * as desk from './desk.ts';
import * as door from './door.ts';
import * as knowledge from './knowledge.ts';
import * as runbook from './runbook.ts';
import * as rights from './rights.ts';
import * as people from './people.ts';
import * as secondYeses from './second-yeses.ts';
import * as sessions from './sessions.ts';
import * as systemReports from './system-reports.ts';

/** Everything that REST does, by what our programs call it. */
export const api = {
  ...people,
  ...sessions,
  ...desk,
  ...knowledge,
  ...runbook,
  ...rights,
  ...systemReports,
  ...secondYeses,
  ...door,
};
export const operations: readonly AnyOperation[] = Object.values(api);
