import { PictureLine, SealedLine, type LiveConnection } from '@porch/client';
import type { Permission } from '@porch/core';
import { nodeCodecs } from '@porch/doorstep';
import { liveSharePort, ScreenShare } from '@porch/host';
import { PaintedDesktop, until } from '@porch/testkit';
import { pictureChannel, signGrant, startOf } from '@porch/wire';

const platform = await nodeCodecs();

/** Doorstep's side without a desktop: agrees to whatever is open, with its own signature. */
export async function agree(doorstep: LiveConnection): Promise<void> {
  const ask = await until('an ask', () => Object.values(doorstep.state.asks)[0]);
  const technician = doorstep.state.participants[ask.participantId];
  const endsAtMs = Date.now() + 60_000;
  const grants = ask.permissions.map((permission, i) =>
    signGrant(doorstep.keys, {
      sessionId: doorstep.sessionId,
      permission,
      technicianSignKey: technician?.signKey ?? '',
      technicianAgreeKey: technician?.agreeKey ?? '',
      number: doorstep.state.lastGrantNumber + 1 + i,
      endsAtMs,
    }),
  );
  await doorstep.command({ type: 'grantAsk', askId: ask.id, grants });
}
export async function allowed(
  technician: LiveConnection,
  doorstep: LiveConnection,
  ...permissions: Permission[]
): Promise<void> {
  const asking = technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions });
  await agree(doorstep);
  await asking;
  await until('it to be allowed', () =>
    permissions.every((p) => technician.state.standings[technician.participantId]?.[p]?.name === 'allowed'),
  );
}
/** Doorstep's picture without its consent: it lets look whoever the service says, since the relay is what is tested. */
export function sharing(doorstep: LiveConnection, width = 192, height = 128) {
  const painted = new PaintedDesktop(width, height);
  const line = new SealedLine(doorstep, pictureChannel);
  const share = new ScreenShare(
    liveSharePort(doorstep, new PictureLine(line), platform.seal),
    painted.desktop,
    platform,
    fail,
  );
  const startOfSeat = (seat: number) => {
    const technician = Object.values(doorstep.state.participants).find((p) => p.seat === seat);
    return technician ? startOf(technician) : '';
  };
  doorstep.on('viewers', (viewers) => {
    const watchers = viewers.map((v) => ({ ...v, start: startOfSeat(v.seat) }));
    share.setWatchers(watchers).catch(fail);
  });
  line.listen(({ from, message }) => share.take(from.seat, message));
  doorstep.on('frame', ({ frame }) => {
    if (frame.channel === 'screen' && frame.senderSeat === 0) share.handleRelay(frame);
  });
  doorstep.on('room', () => share.pump());
  return { painted, share };
}
function fail(error: unknown): never {
  throw error;
}
