import { defaultPolicy, type Policy } from '@porch/core';
import type { Config } from './config.ts';

/** The desk's rules, as whoever runs the service has set them. */
export const policyOf = (config: Config): Policy => ({
  ...defaultPolicy,
  codeLifetimeMs: config.codeLifetimeMs,
  codeRotateMs: config.codeRotateMs,
  isCodeSingleUse: config.isCodeSingleUse,
  invitationLifetimeMs: config.invitationLifetimeMs,
  timeZone: config.timeZone,
  limits: config.limits,
  wrapUpMs: config.wrapUpMs,
  routing: { ...defaultPolicy.routing, offerMs: config.offerMs },
  officeHours: config.officeHours,
  topicNeeds: config.topicNeeds,
  maxWaiting: config.maxWaiting,
  bundles: config.bundles,
  ticketIfNone: config.ticketsUrl || config.ticketsMail ? config.ticketIfNone : 'never',
  handoverAnswerMs: config.handoverAnswerMs,
  noticeVersion: config.notice.version,
  notice: config.notice.texts,
  asks: config.asks,
  askLimits: config.askLimits,
  standingConsentDays: config.standingConsentDays,
  awayAfterMs: config.awayAfterMs,
  abandonedAfterMs: config.abandonedAfterMs,
  maxEntries: config.maxEntries,
  maxFileBytes: config.maxFileBytes,
  controlNeedsComparedWords: config.controlNeedsComparedWords,
  deskName: config.deskName,
  deskPhone: config.deskPhone,
});
