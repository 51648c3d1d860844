import { parse } from 'yaml';

const parts = /^\uFEFF?---\r?\n(?<front>[\s\S]*?)\r?\n---\r?\n(?<text>[\s\S]*)$/;

/** A file that begins with YAML (https://yaml.org/spec/1.2.2) between two lines of three hyphens; undefined for another. */
export function readFrontMatter(text: string): { readonly front: unknown; readonly text: string } | undefined {
  const found = parts.exec(text)?.groups;
  return found && { front: readYaml(found['front'] ?? ''), text: found['text'] ?? '' };
}

/** Plain data alone: no tags of its own, no alias that makes much of little. */
function readYaml(text: string): unknown {
  try {
    return parse(text, { schema: 'core', maxAliasCount: 0, logLevel: 'silent' });
  } catch {
    return undefined;
  }
}
