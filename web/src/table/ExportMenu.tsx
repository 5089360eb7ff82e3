import { Menu } from '../parts/Menu.tsx';

export interface ExportFormat {
  format: string;
  /** The name under which it is saved. */
  file: string;
  name: string;
}

interface Props {
  formats: readonly ExportFormat[];
  address: (format: string) => string;
  /** What is exported. */
  what: string;
}

/** Formats as links, so that the browser's own means of saving a file are at hand. */
export function ExportMenu({ formats, address, what }: Props) {
  return (
    <Menu name="Export" alignRight>
      {(close) => (
        <ul className="w-72 p-2">
          {formats.map(({ format, file, name }) => (
            <li key={format}>
              <a
                className="block rounded px-2 py-1.5 hover:bg-base-200"
                href={address(format)}
                download={file}
                onClick={() => window.setTimeout(close)}
              >
                {name}
              </a>
            </li>
          ))}
          <li className="px-2 pt-1 text-xs text-secondary">{what}</li>
        </ul>
      )}
    </Menu>
  );
}
