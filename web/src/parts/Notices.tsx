import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { type Notice, onAnnouncement, onNotice } from './notices.ts';

const SHOWN_FOR = 6000;
/** What has to be understood, or can be acted on, takes longer. */
const SHOWN_LONG = 20000;

export function Notices() {
  const [notice, setNotice] = useState<(Notice & { id: number }) | null>(null);
  useEffect(() => onNotice((next) => setNotice({ ...next, id: Date.now() })), []);
  useEffect(() => {
    const timer = window.setTimeout(() => setNotice(null), notice?.isError || notice?.act ? SHOWN_LONG : SHOWN_FOR);
    return () => window.clearTimeout(timer);
  }, [notice]);
  return (
    <>
      <Announcements />
      <div
        className="fixed bottom-14 left-1/2 z-30 max-w-[min(44rem,94vw)] -translate-x-1/2"
        role="status"
        aria-live="polite"
      >
        {notice && (
          <div
            key={notice.id}
            className={`flex items-center gap-3 rounded-box px-4 py-2 shadow-lg ${
              notice.isError ? 'bg-error text-error-content' : 'bg-neutral text-neutral-content'
            }`}
          >
            <span>{notice.text}</span>
            {notice.link && (
              <Link className="underline" to={notice.link.to}>
                {notice.link.text}
              </Link>
            )}
            {notice.act && (
              <button
                type="button"
                className="underline"
                onClick={() => {
                  notice.act?.press();
                  setNotice(null);
                }}
              >
                {notice.act.text}
              </button>
            )}
            <button type="button" className="px-1" aria-label="Close this notice" onClick={() => setNotice(null)}>
              ×
            </button>
          </div>
        )}
      </div>
    </>
  );
}

/** Read out, not shown. */
function Announcements() {
  const [text, setText] = useState('');
  useEffect(() => onAnnouncement(setText), []);
  return (
    <p className="sr-only" role="status" aria-live="polite" data-testid="announcement">
      {text}
    </p>
  );
}
