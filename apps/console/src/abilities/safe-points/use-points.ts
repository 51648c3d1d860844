import { comparedInWords, wentBackInWords, type RightsNeeded, type TechnicianSafePoints } from '@porch/client';
import type { PointTouches, RightsBack, SafePoint } from '@porch/core';
import { ref, shallowRef } from 'vue';
import { inWordsOr } from '../../in-words.ts';
import { reasonInWords, speech, w } from '../../words/index.ts';

/** Safe points of one computer, what is said of them, and what is being done. */
export function usePoints(technician: TechnicianSafePoints) {
  const points = shallowRef<readonly SafePoint[]>([]);
  const isBusy = ref(false);
  const said = shallowRef<readonly string[]>([]);
  const trouble = ref('');
  const progress = ref('');

  async function attempt(work: () => Promise<readonly string[]>): Promise<boolean> {
    [isBusy.value, trouble.value, said.value] = [true, '', []];
    try {
      said.value = await work();
      points.value = await technician.list();
      return true;
    } catch (error) {
      trouble.value = inWordsOr(error, w.value.safePoints.refused);
      return false;
    } finally {
      [isBusy.value, progress.value] = [false, ''];
    }
  }
  const tell = (files: number, sizeBytes: number) =>
    (progress.value = w.value.safePoints.making({ files, size: speech.value.bytes(sizeBytes) }));
  return {
    ...{ points, isBusy, said, trouble, progress },
    look: () => attempt(() => Promise.resolve([])),
    make: (name: string, touches: PointTouches) =>
      attempt(async () => [w.value.safePoints.made({ name: (await technician.make(name, touches, tell)).name })]),
    compare: ({ id }: SafePoint) =>
      attempt(async () => comparedInWords(await technician.compare(id), w.value.safePoints)),
    /** What of going back is done by administrator rights; undefined where it could not be asked. */
    async rightsFor({ id }: SafePoint) {
      let needed: RightsNeeded | undefined;
      await attempt(async () => {
        needed = await technician.rightsFor(id);
        return [];
      });
      return needed;
    },
    goBack: ({ id }: SafePoint, byRights: RightsBack | undefined) =>
      attempt(async () =>
        wentBackInWords(await technician.goBack(id, { byRights, tell }), w.value.safePoints, reasonInWords),
      ),
    keep: ({ id }: SafePoint, days: number) =>
      attempt(async () => {
        progress.value = w.value.safePoints.asked;
        await technician.keep(id, days);
        return [];
      }),
    drop: ({ id, name }: SafePoint) =>
      attempt(async () => {
        await technician.drop(id);
        return [w.value.safePoints.dropped({ name })];
      }),
  };
}
