import { Component, type ReactNode, Suspense } from 'react';
import { useLocation } from 'react-router';
import { Failed, Loading } from './states.tsx';

/** A view that comes when it is opened. When it fails, all around it goes on, and another view can be opened. */
export function ViewBoundary({ children }: { children: ReactNode }) {
  return (
    <Boundary key={useLocation().pathname}>
      <Suspense fallback={<Loading what="Opening the view" />}>{children}</Suspense>
    </Boundary>
  );
}

interface Failure {
  failed: boolean;
}

class Boundary extends Component<{ children: ReactNode }, Failure> {
  override state: Failure = { failed: false };

  static getDerivedStateFromError(): Failure {
    return { failed: true };
  }

  override render(): ReactNode {
    if (!this.state.failed) {
      return this.props.children;
    }
    const error = new Error('This view cannot be shown: something in it went wrong. What you decided is safe.');
    // What failed may be a part of the program that is no more on the server.
    return <Failed isView error={error} retry={() => window.location.reload()} />;
  }
}
