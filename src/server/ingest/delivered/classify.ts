import { dotnetRoot } from '../../../core/formats/dotnet.ts';
import { videoMime } from '../../../core/formats/video.ts';
import { encodingOf, type Source } from './source.ts';

/** What a file is, by what is in it; names only help where the content says nothing. */
export type SourceKind =
  | 'zip'
  | 'gzip'
  | 'tar'
  | 'picture'
  | 'video'
  | 'junit'
  | 'dotnet'
  | 'tap'
  | 'json'
  | 'json-lines'
  | 'cues'
  | 'markup'
  | 'xml'
  | 'text'
  | 'empty'
  | 'unknown';

const headSize = 64 * 1024;
/** Result files of .NET runners without a declaration. */
const dotnetStart = /^<(?:TestRun|test-run|assemblies|assembly)[\s>]/;

export function classify(source: Source): SourceKind {
  if (source.size === 0) return 'empty';
  const head = source.read(0, headSize);
  if (head[0] === 0x50 && head[1] === 0x4b && (head[2] === 3 || head[2] === 5)) return 'zip';
  if (head[0] === 0x1f && head[1] === 0x8b) return 'gzip';
  if (head.length > 262 && head.toString('latin1', 257, 262) === 'ustar') return 'tar';
  if (videoMime(head)) return 'video';
  if (
    (head.length > 4 && head.readUInt32BE(0) === 0x89504e47) ||
    (head[0] === 0xff && head[1] === 0xd8 && head[2] === 0xff) ||
    (head.toString('latin1', 0, 4) === 'RIFF' && head.toString('latin1', 8, 12) === 'WEBP')
  )
    return 'picture';
  const encoding = encodingOf(head);
  const text = new TextDecoder(encoding).decode(head).replace(/^\uFEFF/, '');
  // A binary file has zeros, or a good part of it is no text in any encoding.
  if (text.includes('\0')) return 'unknown';
  const broken = [...text].filter((one) => one === '\uFFFD').length;
  if (broken > text.length / 20) return 'unknown';
  const start = text.trimStart();
  if (!start) return 'empty';
  if (start.startsWith('WEBVTT')) return 'cues';
  if (/^<\?xml|^<!--|^<!DOCTYPE|^<testsuites?\b/i.test(start) || dotnetStart.test(start)) {
    if (/<testsuites?[\s>]/.test(start)) return 'junit';
    if (dotnetRoot.test(start)) return 'dotnet';
    if (/<!doctype html|<html[\s>]/i.test(start)) return 'markup';
    return 'xml';
  }
  if (/^<(?:html|body|div)[\s>]/i.test(start)) return 'markup';
  if (start.startsWith('{') || start.startsWith('[')) {
    const [first, second] = start.split(/\r?\n/, 2);
    if (second?.trimStart().startsWith('{') && first!.trimEnd().endsWith('}')) return 'json-lines';
    if (start.startsWith('{') || /^\[\s*\{/.test(start)) return 'json';
  }
  if (
    /^TAP version \d+/m.test(start.slice(0, 2000)) ||
    (/^(?:not )?ok \d+/m.test(start) && /^1\.\.\d+/m.test(text)) ||
    /^1\.\.\d+\s*$/m.test(start.slice(0, 200)) ||
    (/\.t(?:ap)?$/i.test(source.name) && /^(?:not )?ok\b/m.test(start))
  )
    return 'tap';
  return 'text';
}
