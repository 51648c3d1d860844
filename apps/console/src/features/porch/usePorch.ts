import { inBackground } from '@porch/client';
import { applyPorchChange, PorchChange, type PorchView } from '@porch/wire';
import { inject, onScopeDispose, provide, readonly, shallowRef, type InjectionKey } from 'vue';

/**
 * Follows the porch: the service sends it whole at first, then what is other after each change; the browser connects again by itself, unless `mayTry`
 * says that nobody is signed in here any longer.
 */
export function followPorch(mayTry: () => Promise<boolean>) {
  const porch = shallowRef<PorchView>();
  const isOffline = shallowRef(false);
  const receivedAtMs = shallowRef(Date.now());
  let feed: EventSource;
  let retry: ReturnType<typeof setTimeout> | undefined;

  function open(): void {
    feed = new EventSource('/api/v1/porch/changes');
    feed.addEventListener('change', (event) => {
      const change = PorchChange.parse(JSON.parse((event as MessageEvent<string>).data));
      porch.value = applyPorchChange(porch.value, change) ?? porch.value;
      receivedAtMs.value = Date.now();
      isOffline.value = false;
    });
    feed.onerror = () => {
      isOffline.value = true;
      // A browser gives up for good on an answer that is no stream; we do not.
      if (feed.readyState === EventSource.CLOSED) retry = setTimeout(openAgain, 2_000);
    };
  }
  function openAgain(): void {
    const asked = mayTry().then((may) => {
      if (may && !isOver) open();
    });
    inBackground('asking whether we are still signed in', asked);
  }
  let isOver = false;
  open();
  onScopeDispose(() => {
    isOver = true;
    clearTimeout(retry);
    feed.close();
  });
  const followed = {
    porch: readonly(porch) as typeof porch,
    isOffline: readonly(isOffline),
    receivedAtMs: readonly(receivedAtMs),
  };
  provide(porchKey, followed);
  return followed;
}
export type FollowedPorch = ReturnType<typeof followPorch>;
const porchKey: InjectionKey<FollowedPorch> = Symbol('porch');

/** The porch as the shell around every page follows it. */
export function usePorch(): FollowedPorch {
  const followed = inject(porchKey);
  if (!followed) throw new Error('nobody follows the porch');
  return followed;
}
