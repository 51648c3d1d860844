import type { SessionPage, SessionView } from '@porch/wire';
import { onScopeDispose, readonly, ref, shallowRef, watch } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { useSessionFilters } from './useSessionFilters.ts';

/** Past sessions that fit what is asked for, a page more whenever it is wanted. */
export function usePastSessions() {
  const { rest } = useDesk();
  const filters = useSessionFilters((error) => (trouble.value = inWords(error)));
  const items = shallowRef<readonly SessionView[]>();
  const next = ref<string>();
  const trouble = ref('');
  const isLoading = ref(false);
  let asked = 0;

  async function ask(cursor: string | undefined, take: (page: SessionPage) => void): Promise<void> {
    const mine = ++asked;
    isLoading.value = true;
    try {
      const page = await rest.findSessions({ ...filters.search(), cursor });
      // An answer that comes after a newer question is thrown away.
      if (mine !== asked) return;
      take(page);
      next.value = page.next;
      trouble.value = '';
    } catch (error) {
      if (mine === asked) trouble.value = inWords(error);
    } finally {
      if (mine === asked) isLoading.value = false;
    }
  }
  const look = () => ask(undefined, (page) => (items.value = page.items));
  const more = () => ask(next.value, (page) => (items.value = [...(items.value ?? []), ...page.items]));

  watch(filters.query, look, { immediate: true });
  // Whoever comes back to this window finds it as it is now.
  const comeBack = async () => {
    if (document.visibilityState === 'visible' && (items.value?.length ?? 0) <= (next.value ? 50 : Infinity))
      await look();
  };
  document.addEventListener('visibilitychange', comeBack);
  onScopeDispose(() => {
    document.removeEventListener('visibilitychange', comeBack);
  });

  return {
    ...filters,
    items: readonly(items),
    next: readonly(next),
    trouble: readonly(trouble),
    isLoading: readonly(isLoading),
    look,
    more,
  };
}
