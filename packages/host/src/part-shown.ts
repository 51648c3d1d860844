import type { ShownPart } from '@porch/core';
import type { HostPorts } from './ports/host-ports.ts';

/** What of this computer is shown at most, for sentences about it. */
export const partShown = ({ hiding }: HostPorts): ShownPart => hiding?.shown.what ?? 'everything';
