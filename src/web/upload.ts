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
