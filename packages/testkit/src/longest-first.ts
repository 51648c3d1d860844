import { BaseSequencer, type TestSpecification } from 'vitest/node';

/** A long one that comes last keeps one core busy while the other has nothing left. */
const LONGEST = [
  'test/disturbances.test.ts',
  'apps/doorstep/test/doorstep.test.ts',
  'test/whole-session.test.ts',
  'apps/cli/test/porch.test.ts',
  'apps/doorstep/test/hands.test.ts',
  'apps/service/test/outages.test.ts',
];

/** Runs the longest files first, then whatever drives whole programs, then the rest. */
export class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const rank = ({ moduleId }: TestSpecification): number => {
      const place = LONGEST.findIndex((name) => moduleId.endsWith(`/${name}`));
      if (place >= 0) return place;
      return LONGEST.length + (moduleId.includes('/src/') ? 1 : 0);
    };
    return (await super.sort(files)).sort((a, b) => rank(a) - rank(b));
  }
}
