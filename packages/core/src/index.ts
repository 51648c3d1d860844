export {
  abilitiesHanded,
  abilityOf,
  abilityVersions,
  customersAct,
  initialSlices,
  permissionLabel,
  permissionLevel,
  techniciansAct,
  whatIsUndone,
  type AbilityEvent,
  type Slices,
} from './abilities/index.ts';
export { isRefusedKind } from './abilities/files/refused-kinds.ts';
export { isUnderWay, type FileTransfer } from './abilities/files/shape.ts';
export { ClipKind } from './abilities/clipboard/shape.ts';
export { ScreenshotPlace, type Screenshot } from './abilities/screenshot/shape.ts';
export {
  MAX_CHANGES,
  reportPartNames,
  reportParts,
  SystemReport,
  WhyMissing,
  type PartOf,
  type ProgramChange,
  type ReportPart,
  type ReportParts,
} from './abilities/system-report/report.ts';
export { healthOf, isFault, type HealthSign } from './abilities/system-report/health.ts';
export * from './abilities/programs/lists.ts';
export * from './abilities/programs/choose.ts';
export {
  COMMAND_LINE_RISK,
  CommandLineEnd,
  linePlace,
  MAX_LINE_FOLDER_CHARACTERS,
  MAX_LINE_PROGRAM_CHARACTERS,
  MAX_LINE_PRINTED_CHARACTERS,
  namedFolder,
  type CommandLineInSession,
  mayClose,
} from './abilities/command-line/shape.ts';
export {
  MAX_RIGHTS_CHARACTERS,
  minutesOf,
  RAISE_RISK,
  RightsFell,
  rightsLeave,
  rightsOf,
  RightsWay,
  type RaisedInSession,
  type RightsLeave,
  mayFall,
} from './abilities/administrator-rights/shape.ts';
export {
  isAwaited,
  NotRestarted,
  RestartHit,
  RestartHow,
  restartRiskOf,
  RestartStep,
  stopsRestart,
  type AgreedReturn,
  type AwayComputer,
  type RestartSlice,
} from './abilities/restart-and-return/shape.ts';
export {
  MAX_PRINT_TITLE_CHARACTERS,
  PrinterGone,
  PrintRefused,
  type Printout,
  type PrintsSlice,
} from './abilities/prints/shape.ts';
export {
  MAX_ACCOUNT_CHARACTERS,
  mayNotCome,
  NotCome,
  type DesktopsSlice,
  type Ring,
} from './abilities/desktops/shape.ts';
export { leaveForRights } from './abilities/administrator-rights/rules.ts';
export * from './abilities/runbook/action.ts';
export { plainOutput } from './abilities/runbook/printed.ts';
export { MAX_SAID_CHARACTERS, mayEnd, type RunInSession } from './abilities/runbook/shape.ts';
export * from './abilities/safe-points/rights-back.ts';
export * from './abilities/safe-points/safe-point.ts';
export { isOutsideHours, ruleOfLabel, type CarefulLabel } from './abilities/risky-acts/careful-labels.ts';
export { clearedAct, riskyActInWords, type RiskyAct } from './abilities/risky-acts/shape.ts';
export { compareReports, type Difference } from './abilities/system-report/compare.ts';
export { OwnSurface } from './abilities/own-screen/shape.ts';
export { Resting, restingBy } from './abilities/hands-off/shape.ts';
export type { ShownPart } from './abilities/one-program/shape.ts';
export type { PasswordCare } from './abilities/passwords/shape.ts';
export { PageSource } from './abilities/picture/shape.ts';
export * from './booking/booking.ts';
export * from './booking/booking-message.ts';
export * from './booking/wall-clock.ts';
export * from './code/check-digit.ts';
export * from './code/second-number.ts';
export * from './code/one-time-code.ts';
export * from './code/read-aloud.ts';
export * from './decision.ts';
export * from './device/standing-consent.ts';
export * from './invitation/invitation.ts';
export * from './invitation/message.ts';
export * from './kernel/chat/commands.ts';
export { Cannot, MOST_NAMES } from './kernel/joining/events.ts';
export type { GrantStatement } from './kernel/decider.ts';
export { MAX_NOTE_CHARACTERS } from './kernel/ending/commands.ts';
export { closeHandover } from './kernel/handover/handing-over.ts';
export { nextPlannedAsk } from './kernel/planned/next-ask.ts';
export { neededUntilMs } from './kernel/consent/granting.ts';
export * from './kernel/state.ts';
export * from './kernel/vocabulary.ts';
export * from './language.ts';
export * from './notice.ts';
export * from './ledger/chain.ts';
export * from './ledger/drafts.ts';
export * from './ledger/entry.ts';
export * from './ledger/readers.ts';
export { replay, type ToldEntry } from './ledger/replay.ts';
export * from './ledger/to-customer.ts';
export * from './ledger/to-technicians.ts';
export * from './permission/asking.ts';
export * from './permission/bundle.ts';
export * from './permission/permission.ts';
export * from './permission/permission-rules.ts';
export * from './people/first-name.ts';
export * from './people/may-do.ts';
export * from './people/part.ts';
export * from './people/preferences.ts';
export * from './people/program-words.ts';
export * from './people/role.ts';
export * from './people/telephone.ts';
export * from './policy/contradictions.ts';
export * from './policy/policy.ts';
export * from './policy/policy-book.ts';
export * from './policy/settings.ts';
export * from './queue/office-hours.ts';
export * from './queue/queue-entry.ts';
export * from './queue/routing.ts';
export * from './queue/topic.ts';
export * from './queue/waiting-estimate.ts';
export * from './search/search-words.ts';
export * from './session/decide.ts';
export * from './session/purpose.ts';
export * from './session/evolve.ts';
export * from './session/levels.ts';
export * from './session/session-commands.ts';
export * from './session/session-events.ts';
export * from './session/session-state.ts';
export * from './session/session-view.ts';
export * from './session/streams.ts';
export * from './session/time-passes.ts';
export * from './transition.ts';
