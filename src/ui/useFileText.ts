'use client';
import { useEffect, useState } from 'react';

/** The text of a file that a person chose; null until it is read, and where there is none. */
export function useFileText(file: File | null): string | null {
  const [read, setRead] = useState<{ readonly of: File; readonly text: string } | null>(null);
  useEffect(() => {
    if (!file) return undefined;
    let isCurrent = true;
    void file.text().then((text) => {
      if (isCurrent) setRead({ of: file, text });
    });
    return () => {
      isCurrent = false;
    };
  }, [file]);
  return read !== null && read.of === file ? read.text : null;
}
