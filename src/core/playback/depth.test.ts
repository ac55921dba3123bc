import { workedInWords } from './depth';

const [eight, ten] = [{ bitDepth: 8 }, { bitDepth: 10 }];

test.each([
  [{ depth: 'kept' }, [ten, ten], '16 bits a channel'],
  [{ depth: 'kept' }, [eight, ten], '16 bits a channel where a source has more than 8'],
  // What has no more is worked on alike, whatever was asked for: such trials compare.
  [{ depth: 'kept' }, [eight], '8 bits a channel'],
  [{ depth: '8-bit' }, [ten], '8 bits a channel'],
  [{}, [ten], '8 bits a channel'],
  [{ depth: 'kept' }, [], '8 bits a channel'],
] as const)('%j of %j is told as %s', (worked, formats, words) => {
  expect(workedInWords(worked, formats)).toBe(words);
});
