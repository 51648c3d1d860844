import { inBackground } from '@porch/client';
import { computed, onMounted, ref, shallowRef, watch, type Ref } from 'vue';
import { useAttempt } from '../../use-attempt.ts';
import { useTopics } from './use-topics.ts';

/** What of a filter is filled in. */
type Filled<F> = { readonly [K in keyof F]?: Exclude<F[K], ''> };
interface Page<T> {
  readonly items: readonly T[];
  readonly next?: string | undefined;
}

/** What of a library fits a filter, page by page: looked for anew with each change of it. Empty fields ask for nothing. */
export function useFound<F extends Readonly<Record<string, string>>, T>(
  filter: Ref<F>,
  find: (asked: Filled<F> & { readonly cursor?: string }) => Promise<Page<T>>,
) {
  const items = shallowRef<readonly T[]>();
  const next = ref<string>();
  const { topics, readTopics } = useTopics();
  const { trouble, isBusy, attempt } = useAttempt();
  let asked = 0;
  async function look(cursor?: string): Promise<void> {
    const mine = ++asked;
    await attempt(async () => {
      const filled = Object.fromEntries(Object.entries(filter.value).filter(([, value]) => value.trim() !== ''));
      const page = await find({ ...(filled as Filled<F>), ...(cursor === undefined ? {} : { cursor }) });
      // An answer that comes after a newer question is thrown away.
      if (mine !== asked) return;
      items.value = cursor === undefined ? page.items : [...(items.value ?? []), ...page.items];
      next.value = page.next;
    });
  }
  onMounted(() => inBackground('reading a library', look()));
  // Without them everything else of the page is there.
  onMounted(() => readTopics().catch(() => undefined));
  watch(filter, () => inBackground('looking in a library', look()), { deep: true });
  const isFiltered = computed(() => Object.values(filter.value).some((one) => one.trim() !== ''));
  return { items, next, topics, isFiltered, look, trouble, isBusy, attempt };
}
