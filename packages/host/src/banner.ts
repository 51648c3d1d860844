import { presentOf } from '@porch/core';
import { speechOf } from '@porch/words';
import type { BannerLine, Kit, Running } from './kit.ts';
import type { BannerWords } from './ports/desktop-ports.ts';
import { isLooker } from './watchers.ts';

/** What the bar says just now, put together from what the abilities say; undefined when nobody may do anything. */
export function bannerOf(
  { connection, held, words }: Pick<Kit, 'connection' | 'held' | 'words'>,
  abilities: readonly Running[],
): BannerWords | undefined {
  const { state } = connection;
  const { stop, control } = words.kernel;
  const { goOn, private: alone } = words.presence;
  const { hide } = words.picture;
  const nothing: BannerLine = { what: '', besides: [] };
  const said = abilities.reduce((soFar, one) => one.banner?.(soFar) ?? soFar, nothing);
  const buttons = {
    ...(said.mute === undefined ? {} : { mute: said.mute }),
    ...(said.files === undefined ? {} : { files: said.files }),
  };
  const lookers = presentOf(state, 'desk').filter((p) => isLooker({ held }, p.signKey));
  if (!lookers.length) {
    const line = abilities.map((one) => one.barAlone?.()).find((said) => said !== undefined);
    return line && { ...line, stop, hide, private: alone, control, ...buttons };
  }
  const notesOn = (id: string) => abilities.flatMap((one) => one.noteOn?.(id) ?? []);
  const nameOf = ({ id, name }: { id: string; name: string | undefined }) =>
    [name ?? words.kernel.technician, ...notesOn(id).map((note) => `(${note})`)].join(' ');
  return {
    who: speechOf(state.language).list(lookers.map(nameOf)),
    what: [said.what, ...said.besides].join('; '),
    stop,
    hide,
    private: said.isPrivate ? goOn : alone,
    control,
    ...(said.draw === undefined ? {} : { draw: said.draw }),
    ...(said.drawing ? { drawing: said.drawing } : {}),
    ...buttons,
  };
}
