import { faultsIn, RunbookAction, type RunbookFault } from '@porch/core';
import type { PackFile } from '@porch/wire';
import { stringify } from 'yaml';
import { readFrontMatter } from '../../front-matter.ts';

/**
 * An action as a file of a pack, so that packs can be kept under version control: its name is `name.action`; front matter in
 * YAML says everything but the script or text, which stands behind it as it is.
 */
const FrontMatter = RunbookAction.omit({ name: true, body: true });
const fileName = /(?:^|[\\/])(?<name>[^\\/]+)\.action$/;

/** What a file says, or what is wrong with it. */
export function readActionFile(file: PackFile): RunbookAction | 'name' | 'front-matter' | RunbookFault {
  const name = RunbookAction.shape.name.safeParse(fileName.exec(file.name)?.groups?.['name']);
  if (!name.success) return 'name';
  const found = readFrontMatter(file.text);
  const front = FrontMatter.safeParse(found?.front);
  if (!front.success) return 'front-matter';
  const body = RunbookAction.shape.body.safeParse(found?.text);
  if (!body.success) return 'empty';
  const action = { name: name.data, ...front.data, body: body.data };
  return faultsIn(action)[0] ?? action;
}

export function writeActionFile({ name, body, ...front }: RunbookAction): PackFile {
  const { touches, ...said } = front;
  const isTouching = touches.paths.length > 0 || touches.services.length > 0 || touches.hasPackages;
  const lines = Object.entries({ ...said, ...(isTouching ? { touches } : {}) }).filter(
    ([, value]) => value !== undefined && value !== '' && !(Array.isArray(value) && !value.length),
  );
  return { name: `${name}.action`, text: `---\n${stringify(Object.fromEntries(lines))}---\n${body}` };
}
