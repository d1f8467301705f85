import { useRef, type ReactNode } from "react";

interface FilePickProps {
  /** What the file is, for those who do not see the button. */
  readonly label: string;
  readonly accept: string;
  readonly title: string;
  readonly testId: string;
  readonly disabled?: boolean;
  readonly onFile: (file: File) => void;
  readonly children: ReactNode;
}

/** An act that asks for one file. */
export function FilePick({ label, accept, title, testId, disabled, onFile, children }: FilePickProps) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button className="act" disabled={disabled} title={title} onClick={() => input.current?.click()}>
        {children}
      </button>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="hidden"
        aria-label={label}
        data-testid={testId}
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) onFile(file);
          event.target.value = "";
        }}
      />
    </>
  );
}
