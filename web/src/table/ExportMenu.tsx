import { Menu, MenuLink, MenuNote } from '../parts/Menu.tsx';

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
    <Menu name="Export" width="w-72">
      {formats.map(({ format, file, name }) => (
        <MenuLink key={format} href={address(format)} download={file}>
          {name}
        </MenuLink>
      ))}
      <MenuNote>{what}</MenuNote>
    </Menu>
  );
}
