/* What leaves a camera is not always a whole JPEG file (ITU-T T.81), and sometimes more than one. */

const [SOI, SOS, DHT, COM] = [0xd8, 0xda, 0xc4, 0xfe];
/** JFIF, and how colours are coded; all other application segments may say where, when and with what. */
const KEPT_APPLICATION = new Set([0xe0, 0xee]);

/** The typical Huffman tables (ITU-T T.81, Annex K.3) as four segments: cameras that send motion leave them out. */
const typicalTables = Buffer.from(
  '/8QAHwAAAQUBAQEBAQEAAAAAAAAAAAECAwQFBgcICQoL/8QAtRAAAgEDAwIEAwUFBAQAAAF9AQIDAAQRBRIhMUEGE1FhByJxFDKBkaEII0KxwRVS0fAkM2JyggkKFhcY' +
    'GRolJicoKSo0NTY3ODk6Q0RFRkdISUpTVFVWV1hZWmNkZWZnaGlqc3R1dnd4eXqDhIWGh4iJipKTlJWWl5iZmqKjpKWmp6ipqrKztLW2t7i5usLDxMXGx8jJytLT1NXW' +
    '19jZ2uHi4+Tl5ufo6erx8vP09fb3+Pn6/8QAHwEAAwEBAQEBAQEBAQAAAAAAAAECAwQFBgcICQoL/8QAtREAAgECBAQDBAcFBAQAAQJ3AAECAxEEBSExBhJBUQdhcRMi' +
    'MoEIFEKRobHBCSMzUvAVYnLRChYkNOEl8RcYGRomJygpKjU2Nzg5OkNERUZHSElKU1RVVldYWVpjZGVmZ2hpanN0dXZ3eHl6goOEhYaHiImKkpOUlZaXmJmaoqOkpaan' +
    'qKmqsrO0tba3uLm6wsPExcbHyMnK0tPU1dbX2Nna4uPk5ebn6Onq8vP09fb3+Pn6',
  'base64',
);

interface Segment {
  readonly marker: number;
  readonly from: number;
  readonly to: number;
}

/** The segments before the picture itself, and where that begins; or that more has to come, or that it is no JPEG. */
export function headOf(
  bytes: Uint8Array,
): { readonly segments: readonly Segment[]; readonly scanAt: number } | 'more' | 'none' {
  if (bytes[0] !== 0xff || bytes[1] !== SOI) return 'none';
  const segments: Segment[] = [];
  let at = 2;
  while (at + 4 <= bytes.length) {
    const marker = bytes[at + 1] ?? 0;
    const length = ((bytes[at + 2] ?? 0) << 8) | (bytes[at + 3] ?? 0);
    if (bytes[at] !== 0xff || length < 2) return 'none';
    if (marker === SOS) return { segments, scanAt: at };
    segments.push({ marker, from: at, to: at + 2 + length });
    at += 2 + length;
  }
  return 'more';
}

/** Without anything but the picture, and with the tables that it needs. Undefined for what is no JPEG. */
export function cleanJpeg(bytes: Uint8Array): Uint8Array<ArrayBuffer> | undefined {
  const head = headOf(bytes);
  if (typeof head === 'string') return undefined;
  const isKept = ({ marker }: Segment) =>
    marker !== COM && (marker < 0xe0 || marker > 0xef || KEPT_APPLICATION.has(marker));
  const parts = [
    bytes.subarray(0, 2),
    ...head.segments.filter(isKept).map(({ from, to }) => bytes.subarray(from, to)),
    ...(head.segments.some(({ marker }) => marker === DHT) ? [] : [typicalTables]),
    bytes.subarray(head.scanAt),
  ];
  return new Uint8Array(Buffer.concat(parts));
}
