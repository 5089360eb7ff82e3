import { type ComponentType, lazy, Suspense } from 'react';
import { Loading } from './states.tsx';

/** When a part is fetched that nobody asked for yet, in milliseconds after the window is there. */
const SOON = 1500;

/** A window that was opened before the server was renewed asks for parts that are no more: once, it is loaded anew. */
const RENEWED = 'strelm.renewed';

/** A view whose part of the program comes when it is opened, or when the browser has nothing else to do. */
export function laterView(load: () => Promise<ComponentType>): ComponentType {
  let loading: Promise<{ default: ComponentType }> | undefined;
  const once = () => {
    loading ??= load().then(
      (view) => ({ default: view }),
      (error: unknown) => {
        loading = undefined;
        throw error;
      },
    );
    return loading;
  };
  const View = lazy(() =>
    once().catch((error: unknown) => {
      if (Date.now() - lastRenewed() > 60_000) {
        window.sessionStorage.setItem(RENEWED, String(Date.now()));
        window.location.reload();
      }
      throw error;
    }),
  );
  window.setTimeout(() => void once().catch(() => undefined), SOON);
  return function LaterView() {
    return (
      <Suspense fallback={<Loading what="Opening the view" />}>
        <View />
      </Suspense>
    );
  };
}

function lastRenewed(): number {
  return Number(window.sessionStorage.getItem(RENEWED) ?? 0);
}
