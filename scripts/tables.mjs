// The tables of docs/ that are made from the code: `npm run tables` writes them, a test compares.
import { build } from 'esbuild';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Everything that a technician may ask for, from the catalogue. */
export const permissionTable = ({ allPermissions, rulesOf, labelOf, undoneOf }) => [
  '| permission | asked as | needs | sensitive | from a browser | in a standing consent | taken back |',
  '| --- | --- | --- | --- | --- | --- | --- |',
  ...allPermissions.map((permission) => {
    const { needs, isSensitive, worksInBrowser, canStand } = rulesOf(permission);
    const cells = [
      `\`${permission}\``,
      labelOf(permission),
      needs ? `\`${needs}\`` : '',
      isSensitive ? 'alone' : '',
      worksInBrowser ? 'yes' : '',
      canStand ? 'yes' : '',
      undoneOf(permission),
    ];
    return `| ${cells.join(' | ')} |`;
  }),
];

/** What may pass on each sealed channel, from the list that the relay looks up. */
export const channelTable = ({ sealedChannels }) => {
  const any = (needs) => (needs.length ? needs.map((one) => `\`${one}\``).join(' or ') : 'nothing');
  return [
    '| channel | queue | to the customer needs | to the desk needs | besides |',
    '| --- | --- | --- | --- | --- |',
    ...[...sealedChannels]
      .sort((a, b) => a.id - b.id)
      .map(({ id, name, line, needs, isForTheDoor, isForDoorstep, isAmongDesk, hasChunks }) => {
        const besides = [
          isForDoorstep ? 'with Doorstep only' : '',
          isForTheDoor ? 'also at the door of a device' : '',
          isAmongDesk ? 'among the desk, too' : '',
          hasChunks ? 'words and pieces' : '',
        ].filter(Boolean);
        const cells = [`${id} ${name}`, line, any(needs.toCustomer), any(needs.toDesk), besides.join(', ')];
        return `| ${cells.join(' | ')} |`;
      }),
  ];
};

/** The rows of a table without what only lays it out, so that a formatter may do as it likes. */
export const cellsOf = (lines) =>
  lines
    .filter((line) => line.startsWith('|') && !/^\|[\s|:-]+\|$/.test(line))
    .map((line) => line.split('|').map((cell) => cell.trim()));

/** The table between two marks of a page. */
export const tableIn = (page, name) => {
  const [, after = ''] = page.split(`<!-- made from the code: ${name} -->`);
  return after
    .split('<!-- until here -->')[0]
    .split('\n')
    .filter((line) => line.startsWith('|'));
};

async function write() {
  const root = join(fileURLToPath(import.meta.url), '..', '..');
  const load = async (entry) => {
    const { outputFiles } = await build({
      entryPoints: [join(root, entry)],
      bundle: true,
      format: 'esm',
      platform: 'node',
      write: false,
    });
    return import(`data:text/javascript;base64,${Buffer.from(outputFiles[0].contents).toString('base64')}`);
  };
  const put = (file, name, lines) => {
    const path = join(root, 'docs', file);
    const page = readFileSync(path, 'utf8');
    const mark = `<!-- made from the code: ${name} -->`;
    const [before, after] = page.split(mark);
    if (after === undefined) throw new Error(`docs/${file} has no place for ${name}`);
    writeFileSync(
      path,
      `${before}${mark}\n\n${lines.join('\n')}\n\n<!-- until here -->${after.split('<!-- until here -->')[1]}`,
    );
  };
  const core = await load('packages/core/src/index.ts');
  const { ledger } = await load('packages/words/src/built/ledger/all.ts');
  const words = {
    labelOf: (permission) => core.permissionLabel(permission, ledger.en),
    undoneOf: (permission) => core.whatIsUndone(permission, ledger.en),
  };
  put('permissions.md', 'permissions', permissionTable({ ...core, ...words }));
  put('protocol.md', 'channels', channelTable(await load('packages/wire/src/index.ts')));
}
if (process.argv[1] === fileURLToPath(import.meta.url)) await write();
