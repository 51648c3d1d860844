import type { SceneCost } from './scene-cost.ts';

const WIDTH = 900;
const ROW = 64;
const LEFT = 170;
const colours = { ours: '#2f6f6b', yard: '#c9b48a', ink: '#1d2b2c' };

/** Bytes and time of each scene beside the yardstick's, as an SVG drawn from the bench's own numbers. */
export function chartOf(costs: readonly SceneCost[]): string {
  const half = (WIDTH - LEFT - 40) / 2;
  const rows = costs.map((cost, i) => {
    const [yard] = cost.yardsticks;
    const y = 70 + i * ROW;
    const bytes = bars(LEFT, y, half - 20, [cost.bytesPerUpdate / 1024, (yard?.bytesPerFrame ?? 0) / 1024], 'kB');
    const times = bars(LEFT + half, y, half - 20, [cost.sourceMsMean, yard?.msPerFrame ?? 0], 'ms');
    return `<text x="${LEFT - 10}" y="${y + 22}" text-anchor="end">${cost.scene}</text>${bytes}${times}`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${90 + costs.length * ROW}" font-family="sans-serif" font-size="13" fill="${colours.ink}">
<rect width="100%" height="100%" fill="#fdfbf4"/>
<text x="${LEFT}" y="28" font-weight="bold">bytes of an update</text><text x="${LEFT + half}" y="28" font-weight="bold">processor time of an update</text>
<rect x="${LEFT}" y="38" width="12" height="12" fill="${colours.ours}"/><text x="${LEFT + 18}" y="49">Zesty Porch, exact</text>
<rect x="${LEFT + 210}" y="38" width="12" height="12" fill="${colours.yard}"/><text x="${LEFT + 228}" y="49">x264 ultrafast, lossy</text>
${rows.join('\n')}
</svg>
`;
}

/** Two bars, each scene on a scale of its own: what matters is one against the other. */
function bars(x: number, y: number, width: number, values: readonly [number, number], unit: string): string {
  const most = Math.max(...values, 0.001);
  return values
    .map((value, i) => {
      const length = Math.max(1, (value / most) * (width - 90));
      const top = y + i * 22;
      return `<rect x="${x}" y="${top}" width="${length.toFixed(1)}" height="18" fill="${i ? colours.yard : colours.ours}"/><text x="${(x + length + 6).toFixed(1)}" y="${top + 14}">${value.toFixed(value < 10 ? 2 : 0)} ${unit}</text>`;
    })
    .join('');
}
