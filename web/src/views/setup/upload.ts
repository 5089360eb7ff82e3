// Sending a file, with its progress, which fetch does not tell.

import { failure, ProblemError, type Schema, Unsettled } from '../../api/client.ts';

export interface Sending {
  done: Promise<Schema['Upload']>;
  stop: () => void;
}

export function send(file: File, onProgress: (share: number) => void): Sending {
  const request = new XMLHttpRequest();
  const done = new Promise<Schema['Upload']>((resolve, reject) => {
    request.open('POST', `/api/uploads?name=${encodeURIComponent(file.name)}`);
    request.setRequestHeader('Content-Type', 'application/octet-stream');
    request.responseType = 'json';
    request.upload.onprogress = (event) => onProgress(event.total > 0 ? event.loaded / event.total : 0);
    request.onerror = () =>
      reject(new Unsettled('Strelm’s server does not answer. Send the file again in a moment.', null));
    request.onabort = () => reject(new ProblemError('The file was not sent.'));
    request.onload = () => {
      if (request.status === 200) {
        resolve(request.response as Schema['Upload']);
        return;
      }
      reject(failure(request.status, request.response));
    };
    request.send(file);
  });
  return { done, stop: () => request.abort() };
}
