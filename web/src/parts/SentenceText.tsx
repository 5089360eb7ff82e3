import type { Schema } from '../api/client.ts';

type Carries = 'nothing' | 'could' | 'existing' | 'link';

const STYLES: Record<Carries, string> = {
  nothing: '',
  could: 'underline decoration-primary decoration-dotted decoration-2 underline-offset-3 font-semibold',
  existing: 'underline decoration-secondary underline-offset-3',
  link: 'underline decoration-primary decoration-double decoration-2 underline-offset-3 font-semibold text-primary',
};

/** A sentence with the words that carry, or could carry, a link. */
export function SentenceText({ sentence, carries }: { sentence: Schema['Sentence']; carries: Carries }) {
  return (
    <span className="font-serif text-[0.95rem] leading-snug" dir="auto">
      {sentence.before}
      <span className={STYLES[carries]}>{sentence.anchor}</span>
      {sentence.after}
    </span>
  );
}
