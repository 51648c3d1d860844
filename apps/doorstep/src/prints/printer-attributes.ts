import {
  bool,
  charset,
  collection,
  enumerated,
  integer,
  keyword,
  language,
  mimeType,
  nameOf,
  range,
  resolution,
  text,
  uri,
  type Attribute,
  type Collection,
  type Pair,
} from './ipp.ts';

/** Operations (RFC 8011, 5.4.15; PWG 5100.11). */
export const operations = {
  printJob: 0x02,
  validateJob: 0x04,
  createJob: 0x05,
  sendDocument: 0x06,
  cancelJob: 0x08,
  getJobAttributes: 0x09,
  getJobs: 0x0a,
  getPrinterAttributes: 0x0b,
  closeJob: 0x3b,
  identifyPrinter: 0x3c,
} as const;
/** States of a printer (RFC 8011, 5.4.11): it waits for something to print. */
const IDLE = 3;
export const PDF = 'application/pdf';

/** In hundredths of a millimetre. Without margins programs would call every size borderless. */
const MARGIN = 423;
const sizes = {
  iso_a4_210x297mm: [21_000, 29_700],
  'na_letter_8.5x11in': [21_590, 27_940],
  iso_a3_297x420mm: [29_700, 42_000],
  iso_a5_148x210mm: [14_800, 21_000],
} as const satisfies Record<string, Pair>;
const A4 = 'iso_a4_210x297mm';
const DPI: Pair = [600, 600];

const sizeOf = ([across, along]: Pair): Collection => ({
  members: [integer('x-dimension', across), integer('y-dimension', along)],
});
const margins = ['top', 'bottom', 'left', 'right'].map((side) => `media-${side}-margin`);
const sheet = (size: Pair): Collection => ({
  members: [
    collection('media-size', sizeOf(size)),
    ...margins.map((name) => integer(name, MARGIN)),
    keyword('media-source', 'main'),
    keyword('media-type', 'stationery'),
  ],
});
const all = Object.values(sizes);

export const messageHead: readonly Attribute[] = [
  charset('attributes-charset', 'utf-8'),
  language('attributes-natural-language', 'en'),
];

/** On what it prints: these sizes, with margins. */
const mediaAttributes: readonly Attribute[] = [
  keyword('media-default', A4),
  keyword('media-ready', A4),
  keyword('media-supported', ...Object.keys(sizes)),
  collection('media-size-supported', ...all.map(sizeOf)),
  collection('media-col-default', sheet(sizes[A4])),
  collection('media-col-ready', sheet(sizes[A4])),
  collection('media-col-database', ...all.map(sheet)),
  keyword('media-col-supported', 'media-size', ...margins, 'media-source', 'media-type'),
  keyword('media-source-supported', 'main'),
  keyword('media-type-supported', 'stationery'),
  ...margins.map((name) => integer(`${name}-supported`, MARGIN)),
];

export interface PrinterFacts {
  readonly uri: string;
  readonly uuid: string;
  readonly title: string;
  readonly upSeconds: number;
  readonly isAccepting: boolean;
}

/** What a printer says of itself: that of IPP Everywhere (PWG 5100.14) which any system needs to print without a driver. */
export function printerAttributes({ uri: where, uuid, title, upSeconds, isAccepting }: PrinterFacts): Attribute[] {
  return [
    uri('printer-uri-supported', where),
    keyword('uri-security-supported', 'none'),
    keyword('uri-authentication-supported', 'none'),
    nameOf('printer-name', title),
    text('printer-info', title),
    text('printer-make-and-model', 'Zesty Porch'),
    text('printer-location', ''),
    uri('printer-uuid', `urn:uuid:${uuid}`),
    text('printer-device-id', 'MFG:Zesty Porch;MDL:Zesty Porch;CMD:PDF;'),
    uri('printer-more-info', where.replace('ipp:', 'http:')),
    enumerated('printer-state', IDLE),
    keyword('printer-state-reasons', 'none'),
    bool('printer-is-accepting-jobs', isAccepting),
    integer('queued-job-count', 0),
    integer('printer-up-time', upSeconds),
    keyword('ipp-versions-supported', '1.1', '2.0'),
    keyword('ipp-features-supported', 'ipp-everywhere'),
    enumerated('operations-supported', ...Object.values(operations)),
    charset('charset-configured', 'utf-8'),
    charset('charset-supported', 'utf-8'),
    language('natural-language-configured', 'en'),
    language('generated-natural-language-supported', 'en'),
    keyword('compression-supported', 'none'),
    bool('multiple-document-jobs-supported', false),
    integer('multiple-operation-time-out', 60),
    keyword('pdl-override-supported', 'attempted'),
    mimeType('document-format-default', PDF),
    mimeType('document-format-supported', PDF),
    keyword('pdf-versions-supported', 'adobe-1.7', 'iso-32000-1_2008'),
    resolution('printer-resolution-default', DPI),
    resolution('printer-resolution-supported', DPI),
    bool('color-supported', true),
    keyword('print-color-mode-default', 'color'),
    keyword('print-color-mode-supported', 'color', 'monochrome'),
    integer('copies-default', 1),
    range('copies-supported', [1, 99]),
    keyword('sides-default', 'one-sided'),
    keyword('sides-supported', 'one-sided', 'two-sided-long-edge', 'two-sided-short-edge'),
    enumerated('orientation-requested-default', 3),
    enumerated('orientation-requested-supported', 3, 4),
    enumerated('print-quality-default', 4),
    enumerated('print-quality-supported', 4),
    enumerated('finishings-default', 3),
    enumerated('finishings-supported', 3),
    keyword('output-bin-default', 'face-down'),
    keyword('output-bin-supported', 'face-down'),
    ...mediaAttributes,
    keyword(
      'job-creation-attributes-supported',
      ...['copies', 'media', 'media-col', 'sides', 'print-color-mode', 'orientation-requested'],
    ),
    keyword('identify-actions-default', 'display'),
    keyword('identify-actions-supported', 'display'),
    keyword('printer-get-attributes-supported', 'document-format'),
    keyword('which-jobs-supported', 'completed', 'not-completed'),
    bool('job-ids-supported', true),
  ];
}

const groups: ReadonlySet<unknown> = new Set(['all', 'printer-description', 'job-template', 'media-col-database']);
/** Those that were asked for by name, or all for the name of a group (RFC 8011, 4.2.5.1). */
export function wantedOf(attributes: Attribute[], requested: readonly unknown[] | undefined): Attribute[] {
  if (!requested || requested.some((one) => groups.has(one))) return attributes;
  return attributes.filter(({ name }) => requested.includes(name));
}
