import fc from 'fast-check';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { openSealed, sealed, SealedWriter, sealKey } from './sealed.ts';

const folder = mkdtempSync(join(tmpdir(), 'iskel-sealed-'));
afterAll(() => rmSync(folder, { recursive: true }));
const key = sealKey(randomBytes(32), randomBytes(16));

describe('bytes under a key', () => {
  it('are the same again, wherever they begin and however they are cut', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), fc.nat(2 ** 40), fc.nat(200), (bytes, at, cut) => {
        const plain = Buffer.from(bytes);
        const locked = sealed(key, at, plain);
        const first = sealed(key, at, locked.subarray(0, cut));
        const rest = sealed(key, at + Math.min(cut, plain.length), locked.subarray(cut));
        expect(Buffer.concat([first, rest]).equals(plain)).toBe(true);
      }),
    );
  });

  it('written in any order lie on the disk unreadable, and are read file by file', async () => {
    const path = join(folder, 'one');
    const [a, b] = [Buffer.from('password=lantern-77 '.repeat(300)), Buffer.from('seats of Ada Bay '.repeat(10))];
    let writer = await SealedWriter.open({ path, key });
    await writer.write(a.length, b);
    await writer.write(0, a.subarray(0, 1003));
    await writer.close();
    // Gone on with later.
    writer = await SealedWriter.open({ path, key });
    await writer.write(1003, a.subarray(1003));
    await writer.sync();
    await writer.close();
    const kept = readFileSync(path);
    expect(kept.includes('lantern')).toBe(false);
    const { sources, close } = openSealed({ path, key }, [
      { name: '../a.log', start: 0, size: a.length },
      { name: 'b.log', start: a.length, size: b.length },
    ]);
    expect(sources.map(({ name }) => name)).toEqual(['a.log', 'b.log']);
    expect(sources[0]!.read(0, a.length).equals(a)).toBe(true);
    expect(sources[1]!.read(6, 5).toString()).toBe('of Ad');
    expect(sources[1]!.read(b.length - 3, 100)).toHaveLength(3);
    close();
    const other = openSealed({ path, key: sealKey(randomBytes(32), randomBytes(16)) }, [
      { name: 'a.log', start: 0, size: a.length },
    ]);
    expect(other.sources[0]!.read(0, a.length).includes('lantern')).toBe(false);
    other.close();
  });
});
