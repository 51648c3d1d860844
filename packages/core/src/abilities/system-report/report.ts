import { z } from 'zod';

/*
 * What a computer says of itself. Nothing in it says who somebody is: no names of accounts, no serial numbers, no hardware
 * addresses, no names of networks. Texts are short and lists bounded: a computer may say anything.
 */
const text = z.string().max(120);
const bytes = z.number().min(0).max(Number.MAX_SAFE_INTEGER);
const count = z.int().min(0).max(10_000_000);
const moment = z.number().min(0).max(8.64e15);
const percent = z.number().min(0).max(100);
const OnOff = z.enum(['on', 'off', 'unknown']);

export const MAX_CHANGES = 40;

export const ProgramChange = z.strictObject({
  name: text,
  /** Missing: it was put there anew. */
  from: text.optional(),
  /** Missing: it was taken away. */
  to: text.optional(),
  atMs: moment,
});
export type ProgramChange = z.infer<typeof ProgramChange>;

export const reportParts = {
  system: z.strictObject({
    name: text,
    kernel: text,
    architecture: text,
    /** What the computer calls itself. */
    computer: text,
    startedAtMs: moment,
    installedAtMs: moment.optional(),
    timeZone: text,
    language: text,
    /** Something that was brought up to date waits for a restart. */
    wantsRestart: z.boolean(),
  }),
  hardware: z.strictObject({ maker: text.optional(), model: text.optional(), processor: text, cores: count }),
  memory: z.strictObject({
    totalBytes: bytes,
    availableBytes: bytes,
    swapTotalBytes: bytes,
    swapFreeBytes: bytes,
    /** Processes that want to run, for each core, over the last minute. */
    loadPerCore: z.number().min(0).max(100_000),
  }),
  /** Those with the least room first. */
  storage: z.strictObject({
    volumes: z
      .array(z.strictObject({ at: text, kind: text, totalBytes: bytes, freeBytes: bytes, isReadOnly: z.boolean() }))
      .max(24),
  }),
  network: z.strictObject({
    interfaces: z.array(z.strictObject({ name: text, isUp: z.boolean(), addresses: z.array(text).max(6) })).max(16),
    gateway: text.optional(),
    nameServers: z.array(text).max(6),
    /** Whether the desk's own service answers, by a way of its own, and how soon. */
    desk: z.strictObject({ isReached: z.boolean(), ms: z.number().min(0).max(600_000).optional() }),
  }),
  display: z.strictObject({
    server: text,
    displays: z.array(z.strictObject({ name: text, width: count, height: count })).max(16),
  }),
  sound: z.strictObject({ isServed: z.boolean(), cards: z.array(text).max(16) }),
  battery: z.strictObject({
    isThere: z.boolean(),
    percent: percent.optional(),
    isCharging: z.boolean().optional(),
    /** How much of its first capacity is left. */
    healthPercent: percent.optional(),
  }),
  services: z.strictObject({ running: count, failed: z.array(text).max(24) }),
  processes: z.strictObject({
    count,
    /** What works most, by processor time since it started and by memory. */
    top: z.array(z.strictObject({ name: text, cpuPercent: z.number().min(0).max(100_000), memoryBytes: bytes })).max(8),
  }),
  security: z.strictObject({ firewall: OnOff, encryption: OnOff, automaticUpdates: OnOff, signedIn: count }),
  /** By the computer's own log of packages: the last changes first. */
  programs: z.strictObject({ count, updatedAtMs: moment.optional(), changes: z.array(ProgramChange).max(MAX_CHANGES) }),
  /** Slow: looked for last. */
  updates: z.strictObject({ pending: count, security: count }),
} as const satisfies Readonly<Record<string, z.ZodType>>;

export type ReportPart = keyof typeof reportParts;
export const reportPartNames = Object.keys(reportParts) as ReportPart[];
export type PartOf<P extends ReportPart> = z.infer<(typeof reportParts)[P]>;
export type ReportParts = { readonly [P in ReportPart]?: PartOf<P> | undefined };

/** Why a part is not there: this computer has no such thing, only an administrator may read it, it took too long, it failed. */
export const WhyMissing = z.enum(['not-there', 'no-rights', 'took-too-long', 'failed']);
export type WhyMissing = z.infer<typeof WhyMissing>;

/** A system report, as it is kept and given out: documented in docs/system-report.md. */
export const SystemReport = z.strictObject({
  version: z.literal(1),
  takenAtMs: moment,
  parts: z.strictObject(
    Object.fromEntries(reportPartNames.map((part) => [part, reportParts[part].optional()])) as {
      [P in ReportPart]: z.ZodOptional<(typeof reportParts)[P]>;
    },
  ),
  missing: z.partialRecord(z.enum(reportPartNames as [ReportPart, ...ReportPart[]]), WhyMissing),
});
export type SystemReport = z.infer<typeof SystemReport>;
