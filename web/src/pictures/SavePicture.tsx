import { type RefObject, useCallback } from 'react';
import { say } from '../parts/notices.ts';

/** Pictures are saved so many times as large as they stand on the screen. */
const SHARP = 2;

/** Saves a picture that stands on the screen, as SVG or PNG. */
export function SavePicture({ picture, name }: { picture: RefObject<SVGSVGElement | null>; name: string }) {
  const save = useCallback(
    async (as: 'svg' | 'png') => {
      if (!picture.current) {
        return;
      }
      try {
        const svg = standalone(picture.current);
        const blob = as === 'svg' ? svg : await rasterised(svg, picture.current);
        offer(blob, `${name}.${as}`);
      } catch {
        say({ text: 'The browser could not make the picture. Save the table instead.', isError: true });
      }
    },
    [picture, name],
  );
  return (
    <span className="flex gap-1.5">
      {(['png', 'svg'] as const).map((as) => (
        <button key={as} type="button" className="btn btn-xs btn-ghost border-base-300" onClick={() => void save(as)}>
          Save as {as.toUpperCase()}
        </button>
      ))}
    </span>
  );
}

/** Styles that a picture takes from the page around it. */
const STYLES = ['fill', 'stroke', 'stroke-width', 'font-family', 'font-size', 'font-weight', 'opacity', 'text-anchor'];

/** The picture with all its colours, so that it looks the same by itself. O(its parts). */
function standalone(picture: SVGSVGElement): Blob {
  const copy = picture.cloneNode(true) as SVGSVGElement;
  const [shown, copied] = [picture.querySelectorAll('*'), copy.querySelectorAll('*')];
  shown.forEach((element, at) => {
    const style = getComputedStyle(element);
    for (const property of STYLES) {
      copied[at]?.setAttribute(property, style.getPropertyValue(property));
    }
    copied[at]?.removeAttribute('class');
  });
  const { width, height } = picture.getBoundingClientRect();
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
  copy.setAttribute('width', String(width));
  copy.setAttribute('height', String(height));
  const ground = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
  ground.setAttribute('width', '100%');
  ground.setAttribute('height', '100%');
  ground.setAttribute('fill', getComputedStyle(document.body).backgroundColor);
  copy.prepend(ground);
  return new Blob([new XMLSerializer().serializeToString(copy)], { type: 'image/svg+xml' });
}

async function rasterised(svg: Blob, picture: SVGSVGElement): Promise<Blob> {
  const { width, height } = picture.getBoundingClientRect();
  const image = new Image();
  // The policy of the page allows pictures in addresses, and no others.
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(await svg.text())}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = Math.round(width * SHARP);
  canvas.height = Math.round(height * SHARP);
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve, reject) => {
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error('The picture is too large.'))), 'image/png');
  });
}

function offer(blob: Blob, file: string): void {
  const address = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = address;
  link.download = file;
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(address), 10_000);
}
