import { z } from 'zod';
import { MAX_POINT_SERVICES } from './safe-point.ts';

/** The most packages that are put back at once: more were changed by something that no safe point undoes. */
export const MAX_BACK_PACKAGES = 100;

/** Name and architecture, as dpkg names a package (deb-control(5), “Package”, “Architecture”). */
const packageId = z.string().regex(/^[a-z0-9][a-z0-9+.-]{0,119}:[a-z0-9-]{1,30}$/);
/** deb-version(7). */
const version = z.string().regex(/^[0-9][A-Za-z0-9.+:~-]{0,99}$/);

/** A package that is to be what it was. */
export const PackageBack = z.strictObject({
  id: packageId,
  /** What is there now; missing where nothing is. */
  from: version.optional(),
  /** What was there; missing where nothing was. */
  to: version.optional(),
});
/** A service of the computer that is to be as it was, in what is other. */
export const ServiceBack = z.strictObject({
  /** As the list of services names it. */
  target: z.string().regex(/^computer\/[A-Za-z0-9:_.\\@][A-Za-z0-9:_.\\@-]{0,140}\.service$/),
  runs: z.boolean().optional(),
  begins: z.enum(['by-itself', 'by-hand']).optional(),
});

/** Of going back to a safe point, what only an administrator may. */
export const RightsBack = z.strictObject({
  packages: z.array(PackageBack).max(MAX_BACK_PACKAGES),
  services: z.array(ServiceBack).max(MAX_POINT_SERVICES),
});
export type RightsBack = z.infer<typeof RightsBack>;
export const isRightsBackEmpty = ({ packages, services }: RightsBack): boolean => !packages.length && !services.length;

/** Each by its name, with what becomes of it; the same in every language. */
export const rightsBackInWords = ({ packages, services }: RightsBack): string[] => [
  ...packages.map(({ id, from = '–', to = '–' }) => `${id.split(':')[0] ?? id} ${from} → ${to}`),
  ...services.map(({ target }) => target.replace(/^computer\/(.*)\.service$/, '$1')),
];
