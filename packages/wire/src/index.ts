export * from './clock.ts';
export * from './randomness.ts';
export * from './errors.ts';
export * from './frame.ts';
export * from './live/device-messages.ts';
export * from './live/ledger-rows.ts';
export * from './live/client-messages.ts';
export {
  AsideMessage,
  COMMAND_WINDOW,
  CustomerStep,
  HEARTBEAT_MS,
  HELLO_MS,
  isLaterServerMessage,
  LedgerRowMessage,
  PresenceRow,
  PROTOCOL_VERSION,
  ServerMessage,
  SILENCE_MS,
  ViewerRow,
} from './live/live-messages.ts';
export { api, operations } from './rest/api/index.ts';
export { apiWords, type OperationWords } from './rest/api/words.ts';
export { parameterWords } from './rest/api/parameter-words.ts';
export { apiRefusals } from './rest/api/refusals.ts';
export { nameSchemas } from './rest/api/names.ts';
export { isoForm } from './rest/iso-form.ts';
export * from './rest/operation.ts';
export * from './rest/join-body.ts';
export * from './rest/rest-schemas.ts';
export * from './rest/ledger-view.ts';
export * from './rest/caller-schemas.ts';
export * from './rest/knowledge-schemas.ts';
export * from './rest/system-report-schemas.ts';
export * from './rest/door-schemas.ts';
export * from './rest/rights-schemas.ts';
export * from './rest/runbook-schemas.ts';
export * from './rest/second-yes-schemas.ts';
export * from './rest/ticket-view.ts';
export * from './rest/session-search.ts';
export * from './rest/porch-feed.ts';
export * from './rest/screenshot-schemas.ts';
export * from './trust/grant.ts';
export * from './trust/keys.ts';
export * from './trust/ciphers.ts';
export * from './trust/pairwise.ts';
export * from './abilities/check-words.ts';
export * from './abilities/clipboard.ts';
export * from './abilities/drawing.ts';
export * from './abilities/files.ts';
export * from './abilities/hands-off.ts';
export * from './abilities/index.ts';
export * from './abilities/input.ts';
export * from './abilities/own-screen.ts';
export * from './abilities/picture.ts';
export * from './abilities/screenshot.ts';
export * from './abilities/camera.ts';
export * from './abilities/sound.ts';
export * from './abilities/standing.ts';
export * from './abilities/system-report.ts';
export * from './abilities/programs.ts';
export * from './abilities/runbook.ts';
export * from './abilities/command-line.ts';
export * from './abilities/administrator-rights.ts';
export * from './abilities/prints.ts';
export * from './abilities/desktops.ts';
export * from './abilities/restart-and-return.ts';
export * from './abilities/safe-points.ts';
export * from './sealed/chunk.ts';
export * from './sealed/channel.ts';
export * from './line/paced-line.ts';
export * from './trust/checkpoint.ts';
export * from './trust/content.ts';
export * from './trust/proof-of-work.ts';
export * from './trust/rights.ts';
export * from './trust/words.ts';
export * from './trust/second-secret.ts';
export * from './rest/release.ts';
