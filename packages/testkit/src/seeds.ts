/** 200 fixed schedules for each property; thousands with `npm test -- --long`. */
export const runs = (): { numRuns: number; seed: number } => ({
  numRuns: process.env['PORCH_TEST_LONG'] ? 5_000 : 200,
  seed: 20_261_123,
});
