import type { Difference, HealthSign, PartOf, ReportPart, ReportParts } from '@porch/core';
import type { Speech } from '@porch/words';
import type { ConsoleWords } from '@porch/words/console/shape';

/* A system report as people read it: the same rows and sentences in the console, on the command line, printed and as CSV. */

export type ReportWords = ConsoleWords['systemReport'];
/** How numbers and moments are said. */
export type ReportSpeech = Pick<Speech, 'number' | 'bytes' | 'percent' | 'day' | 'exactlyHere' | 'list'>;

const changeInWords = (
  { name, from, to, atMs }: { name: string; from?: string | undefined; to?: string | undefined; atMs: number },
  { signs }: ReportWords,
  speech: ReportSpeech,
): string => {
  const day = speech.day(atMs);
  if (from === undefined) return signs.came({ name, to: to ?? '', day });
  return to === undefined ? signs.went({ name, from, day }) : signs.changed({ name, from, to, day });
};

/** One sign of health as a sentence. */
export function signInWords(sign: HealthSign, words: ReportWords, speech: ReportSpeech): string {
  const { signs } = words;
  switch (sign.sign) {
    case 'full':
    case 'narrow':
      return signs[sign.sign]({ at: sign.at, percent: speech.percent(sign.percent / 100) });
    case 'read-only':
      return signs['read-only']({ at: sign.at });
    case 'service-failed':
      return signs['service-failed']({ name: sign.name });
    case 'little-memory':
    case 'battery-worn':
    case 'battery-low':
      return signs[sign.sign]({ percent: speech.percent(sign.percent / 100) });
    case 'busy':
      return signs.busy({ times: speech.number(sign.times) });
    case 'security-updates':
    case 'changed-besides':
      return signs[sign.sign]({ count: sign.count });
    case 'changed-lately':
      return changeInWords(sign, words, speech);
    default:
      return signs[sign.sign];
  }
}

/** One thing that is other than it was. */
export function differenceInWords(difference: Difference, words: ReportWords, speech: ReportSpeech): string {
  const { others, states } = words;
  const state = (text: string) => (Object.hasOwn(states, text) ? states[text as keyof typeof states] : text);
  switch (difference.what) {
    case 'program':
      return changeInWords(difference.change, words, speech);
    case 'memory':
      return others.memory({ from: speech.bytes(difference.fromBytes), to: speech.bytes(difference.toBytes) });
    case 'room': {
      const { at, fromBytes, toBytes } = difference;
      return others.room({ at, from: speech.bytes(fromBytes), to: speech.bytes(toBytes) });
    }
    case 'volume-came':
    case 'volume-went':
      return others[difference.what]({ at: difference.at });
    case 'service-failed':
    case 'service-mended':
      return others[difference.what]({ name: difference.name });
    case 'displays':
      return others.displays({ from: speech.number(difference.from), to: speech.number(difference.to) });
    default:
      return others[difference.what]({ from: state(difference.from), to: state(difference.to) });
  }
}

/** One line of a report: which part, what of it, and what it says. */
export type ReportRow = readonly [part: ReportPart, label: string, value: string];
type Rows<P extends ReportPart> = (part: PartOf<P>, words: ReportWords, speech: ReportSpeech) => [string, string][];

const yesOrNo = (is: boolean, { values }: ReportWords): string => (is ? values.yes : values.no);
const some = (all: readonly string[], { values }: ReportWords, speech: ReportSpeech): string =>
  all.length ? speech.list(all) : values.none;

const rowsOf: { readonly [P in ReportPart]: Rows<P> } = {
  system: (part, words, speech) => [
    [words.fields.name, `${part.name} (${part.architecture})`],
    [words.fields.kernel, part.kernel],
    [words.fields.computer, part.computer],
    [words.fields.started, speech.exactlyHere(part.startedAtMs)],
    ...(part.installedAtMs === undefined
      ? []
      : [[words.fields.installed, speech.exactlyHere(part.installedAtMs)] as [string, string]]),
    [words.fields.zone, part.timeZone],
    [words.fields.language, part.language],
    [words.fields.restart, yesOrNo(part.wantsRestart, words)],
  ],
  hardware: ({ maker = '', model = '', processor, cores }, { fields, values }) => [
    ...(maker || model ? [[fields.model, `${maker} ${model}`.trim()] as [string, string]] : []),
    [fields.processor, values.cores({ processor, count: cores })],
  ],
  memory: (part, { fields, values }, { bytes, number }) => [
    [fields.memory, values.free({ free: bytes(part.availableBytes), total: bytes(part.totalBytes) })],
    [fields.swap, values.free({ free: bytes(part.swapFreeBytes), total: bytes(part.swapTotalBytes) })],
    [fields.load, number(part.loadPerCore)],
  ],
  storage: ({ volumes }, { values }, { bytes }) =>
    volumes.map(({ at, freeBytes, totalBytes, isReadOnly }) => [
      at,
      values[isReadOnly ? 'freeReadOnly' : 'free']({ free: bytes(freeBytes), total: bytes(totalBytes) }),
    ]),
  network: ({ interfaces, gateway, nameServers, desk }, words, speech) => [
    ...interfaces.map(({ name, isUp, addresses }): [string, string] => [
      name,
      isUp ? some(addresses, words, speech) : words.values.down,
    ]),
    [words.fields.gateway, gateway ?? words.values.none],
    [words.fields.names, some(nameServers, words, speech)],
    [
      words.fields.desk,
      desk.isReached ? words.values.reached({ ms: speech.number(desk.ms ?? 0) }) : words.values.notReached,
    ],
  ],
  display: ({ server, displays }, { fields }) => [
    [fields.server, server],
    ...displays.map(({ name, width, height }): [string, string] => [name, `${width}×${height}`]),
  ],
  sound: ({ isServed, cards }, words, speech) => [
    [words.fields.sound, yesOrNo(isServed, words)],
    [words.fields.cards, some(cards, words, speech)],
  ],
  battery: ({ isThere, percent, isCharging, healthPercent }, { fields, values }, speech) => {
    if (!isThere) return [[fields.battery, values.none]];
    const charge = speech.percent((percent ?? 0) / 100);
    return [
      [fields.battery, isCharging ? values.charging({ percent: charge }) : charge],
      ...(healthPercent === undefined
        ? []
        : [[fields.health, speech.percent(healthPercent / 100)] as [string, string]]),
    ];
  },
  services: ({ running, failed }, words, speech) => [
    [words.fields.running, speech.number(running)],
    [words.fields.failed, some(failed, words, speech)],
  ],
  processes: ({ count, top }, { fields, values }, speech) => [
    [fields.count, speech.number(count)],
    ...top.map(({ name, cpuPercent, memoryBytes }): [string, string] => [
      name,
      values.busy({ percent: speech.percent(cpuPercent / 100), memory: speech.bytes(memoryBytes) }),
    ]),
  ],
  security: ({ firewall, encryption, automaticUpdates, signedIn }, { fields, states }, speech) => [
    [fields.firewall, states[firewall]],
    [fields.encryption, states[encryption]],
    [fields.automatic, states[automaticUpdates]],
    [fields.people, speech.number(signedIn)],
  ],
  programs: ({ count, updatedAtMs, changes }, words, speech) => [
    [words.fields.count, speech.number(count)],
    ...(updatedAtMs === undefined ? [] : [[words.fields.updated, speech.exactlyHere(updatedAtMs)] as [string, string]]),
    ...changes.map((change): [string, string] => [
      speech.exactlyHere(change.atMs),
      changeInWords(change, words, speech),
    ]),
  ],
  updates: ({ pending, security }, { fields }, speech) => [
    [fields.pending, speech.number(pending)],
    [fields.security, speech.number(security)],
  ],
};

/** Every line of one part that is there. */
export function rowsOfPart<P extends ReportPart>(
  name: P,
  parts: ReportParts,
  words: ReportWords,
  speech: ReportSpeech,
): ReportRow[] {
  const part: PartOf<P> | undefined = parts[name];
  return part ? rowsOf[name](part, words, speech).map(([label, value]) => [name, label, value]) : [];
}
