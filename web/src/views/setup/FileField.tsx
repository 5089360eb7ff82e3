import { useEffect, useRef, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { Field } from '../../parts/Field.tsx';
import { type Sending, send } from './upload.ts';

interface Props {
  label: string;
  help: string;
  /** Endings of files that can be chosen. */
  accept: string;
  problem: string | undefined;
  onSent: (upload: Schema['Upload'] | undefined, file: File) => void;
}

/** A file that is sent as soon as it is chosen. */
export function FileField({ label, help, accept, problem, onSent }: Props) {
  const [progress, setProgress] = useState<number>();
  const [refusal, setRefusal] = useState<string>();
  const sending = useRef<Sending>(undefined);
  useEffect(() => () => sending.current?.stop(), []);
  const choose = async (file: File | undefined) => {
    sending.current?.stop();
    if (!file) {
      return;
    }
    onSent(undefined, file);
    setRefusal(undefined);
    setProgress(0);
    const mine = send(file, setProgress);
    sending.current = mine;
    try {
      onSent(await mine.done, file);
    } catch (error) {
      if (sending.current === mine) {
        setRefusal(error instanceof Error ? error.message : 'The file was not sent.');
      }
    } finally {
      if (sending.current === mine) {
        setProgress(undefined);
      }
    }
  };
  return (
    <>
      <Field label={label} help={help} problem={refusal ?? problem}>
        {(props) => (
          <input
            {...props}
            type="file"
            accept={accept}
            className="file-input w-full"
            onChange={(event) => void choose(event.target.files?.[0])}
          />
        )}
      </Field>
      {progress !== undefined && (
        <p role="status" className="mb-3 flex items-center gap-3">
          <progress className="progress progress-primary w-64" value={progress} max={1} aria-label="Sending the file" />
          {progress < 1 ? `${Math.round(progress * 100)} % sent` : 'Sent; it is being looked at'}
          <button type="button" className="link link-primary" onClick={() => sending.current?.stop()}>
            Stop
          </button>
        </p>
      )}
    </>
  );
}
