/** Whose order it is, as whoever started this part says: sudo, pkexec, or systemd by the socket's other end. */
export function callersUid(env: NodeJS.ProcessEnv, instance: string | undefined): number | undefined {
  const said = instance === undefined ? (env['PKEXEC_UID'] ?? env['SUDO_UID']) : instance.split('-').at(-1);
  return said !== undefined && /^\d{1,10}$/.test(said) ? Number(said) : undefined;
}
