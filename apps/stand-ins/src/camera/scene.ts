export const FULL_SIZE = { width: 1920, height: 1080 } as const;
/** So many pictures one after the other, and then again: something always moves. */
export const PICTURES_IN_ROUND = 8;
/** What a camera writes beside a picture, and nobody else's business. */
export const PLACE_IT_WRITES = 'taken at 58.1497 N 7.9944 E';

/** The boarding-pass printer at Tern Quay, with the plate that everybody asks for. */
function scene(number: number, isLit: boolean): string {
  const light = isLit ? 1 : 0.55;
  const grey = (level: number) => `rgb(${[level, level, level].map((c) => Math.round(c * light)).join(',')})`;
  const tint = (r: number, g: number, b: number) => `rgb(${[r, g, b].map((c) => Math.round(c * light)).join(',')})`;
  const x = 300 + number * 40;
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1920 1080" width="1920" height="1080">
    <rect width="1920" height="1080" fill="${tint(148, 116, 84)}"/>
    <rect x="260" y="150" width="1400" height="760" rx="40" fill="${grey(70)}"/>
    <rect x="320" y="210" width="1280" height="120" rx="20" fill="${grey(40)}"/>
    <rect x="${x}" y="240" width="60" height="60" rx="30" fill="${tint(90, 200, 120)}"/>
    <rect x="420" y="420" width="1080" height="420" rx="12" fill="${grey(225)}"/>
    <g font-family="DejaVu Sans" fill="${grey(25)}">
      <text x="470" y="520" font-size="74" font-weight="bold">QUAYPRINT 80</text>
      <text x="470" y="620" font-size="52">S/N QP80-0417-22   REV 4.1</text>
      <text x="470" y="700" font-size="40">Head 203 dpi   24 V 2.5 A</text>
      <text x="470" y="780" font-size="34">Marrowick Ferries, Tern Quay office</text>
    </g>
  </svg>`;
}

const isSegment = (marker: number) => marker !== 0xda;
/** As cameras send moving pictures: without the tables that everybody has, and with a note of where it was. */
function asFromCamera(jpeg: Buffer): Buffer {
  const note = Buffer.from(`Exif\0\0${PLACE_IT_WRITES}`);
  const parts = [jpeg.subarray(0, 2), Buffer.from([0xff, 0xe1, 0, note.length + 2]), note];
  let at = 2;
  while (isSegment(jpeg[at + 1] ?? 0xda)) {
    const to = at + 2 + jpeg.readUInt16BE(at + 2);
    if (jpeg[at + 1] !== 0xc4) parts.push(jpeg.subarray(at, to));
    at = to;
  }
  return Buffer.concat([...parts, jpeg.subarray(at)]);
}

export async function pictureOf(
  number: number,
  isLit: boolean,
  { width, height }: { readonly width: number; readonly height: number },
): Promise<Buffer> {
  // Only here: what the camera can do is asked for more often, and has to be answered soon.
  const { default: sharp } = await import('sharp');
  const jpeg = await sharp(Buffer.from(scene(number, isLit)))
    .resize(width, height)
    .jpeg({ quality: 80, optimiseCoding: false })
    .toBuffer();
  return asFromCamera(jpeg);
}
