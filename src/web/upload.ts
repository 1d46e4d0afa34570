import type { IntakeResult } from '../core/records.ts';
import { ApiError } from './api.ts';

/** A file with the path it had in its folder. */
export interface Dropped {
  file: File;
  path: string;
}

/** All files of a drop, folders opened. */
export async function droppedFiles(transfer: DataTransfer): Promise<Dropped[]> {
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  if (!entries.length) return [...transfer.files].map((file) => ({ file, path: file.name }));
  const out: Dropped[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((done, fail) => (entry as FileSystemFileEntry).file(done, fail));
      out.push({ file, path: entry.fullPath.replace(/^\//, '') });
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    // A reader gives a hundred at a time, and nothing when there are no more.
    for (;;) {
      const part = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
      if (!part.length) break;
      for (const one of part) await walk(one);
    }
  };
  for (const entry of entries) await walk(entry);
  return out;
}

/** Files chosen in a dialog; a chosen folder tells its paths. */
export const chosenFiles = (list: FileList): Dropped[] =>
  [...list].map((file) => ({ file, path: file.webkitRelativePath || file.name }));

export interface Upload {
  result: Promise<IntakeResult>;
  stop(): void;
}

/** Sends files for intake; `sent` tells the share that has gone over. */
export function upload(files: readonly Dropped[], run: string | undefined, sent: (share: number) => void): Upload {
  const form = new FormData();
  // Fields first: the server reads the body as it comes.
  form.append('modified', JSON.stringify(Object.fromEntries(files.map(({ file, path }) => [path, file.lastModified]))));
  if (run) form.append('run', run);
  for (const { file, path } of files) form.append('files', file, path);
  const request = new XMLHttpRequest();
  const result = new Promise<IntakeResult>((done, fail) => {
    request.open('POST', '/api/intake');
    request.upload.onprogress = ({ loaded, total }) => sent(total ? loaded / total : 0);
    request.onload = () => {
      const read = JSON.parse(request.responseText || '{}') as IntakeResult & {
        error?: { code: string; message: string };
      };
      if (request.status === 200) done(read);
      else
        fail(
          new ApiError(
            request.status,
            read.error?.code ?? 'failed',
            read.error?.message ?? `the delivery failed with status ${request.status}`,
            read,
          ),
        );
    };
    request.onerror = () =>
      fail(
        new ApiError(
          0,
          'unreachable',
          'Iskel does not answer. Is the server still running? Nothing was taken in; drop the files again once it runs.',
          undefined,
        ),
      );
    request.onabort = () => fail(new ApiError(0, 'stopped', 'It was stopped; nothing of it is kept.', undefined));
    request.send(form);
  });
  return { result, stop: () => request.abort() };
}
