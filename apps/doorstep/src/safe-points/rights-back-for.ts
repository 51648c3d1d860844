import { PackageBack, RightsBack, ServiceBack } from '@porch/core';
import { PointRefused } from '@porch/host';
import type { OtherPackage, OtherService } from './point-differences.ts';

/** Of what is other, what only an administrator may put back. Throws PointRefused where that is more than is ever put back. */
export function rightsBackFor(services: readonly OtherService[], packages: readonly OtherPackage[]): RightsBack {
  const back = RightsBack.safeParse({
    // A difference goes from then to now, and going back from now to then.
    packages: packages.flatMap(({ id, from, to }) => {
      const one = PackageBack.safeParse({ id, ...(to ? { from: to } : {}), ...(from ? { to: from } : {}) });
      // What has no name or version of a package is left as it is, and so below.
      return one.success ? one.data : [];
    }),
    services: services.flatMap(({ was, now }) => {
      if (!was.id.startsWith('computer/') || !now) return [];
      const isSettable = was.begins === 'by-itself' || was.begins === 'by-hand';
      const one = ServiceBack.safeParse({
        target: was.id,
        ...(now.runs === was.runs ? {} : { runs: was.runs }),
        ...(now.begins !== was.begins && isSettable ? { begins: was.begins } : {}),
      });
      return one.success ? one.data : [];
    }),
  });
  if (!back.success) throw new PointRefused('too much is other than it was');
  return back.data;
}
