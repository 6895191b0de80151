import { useRef } from 'react';
import { chosen } from '../files.ts';
import { Button } from './button.tsx';

interface FileButtonProps {
  readonly text: string;
  /** What the hidden field is called. */
  readonly label: string;
  readonly accept: string;
  readonly multiple?: boolean;
  readonly onFiles: (files: readonly File[]) => void;
}

/** A button that asks for files. */
export function FileButton({ text, label, accept, multiple = false, onFiles }: FileButtonProps) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button onClick={() => input.current?.click()}>{text}</Button>
      <input
        ref={input}
        type="file"
        hidden
        multiple={multiple}
        accept={accept}
        aria-label={label}
        onChange={(event) => {
          const files = chosen(event.currentTarget);
          if (files.length > 0) onFiles(files);
        }}
      />
    </>
  );
}
