import type { Locator } from '@playwright/test';

/** How many points of a drawing are black: letters, where its pictures have colours. */
export const inkOf = (canvas: Locator): Promise<number> =>
  canvas.evaluate((drawn: HTMLCanvasElement) => {
    // A copy: the page’s own may stay where it is drawn fastest.
    const copy = new OffscreenCanvas(drawn.width, drawn.height);
    const context = copy.getContext('2d', { willReadFrequently: true });
    context?.drawImage(drawn, 0, 0);
    const pixels = context?.getImageData(0, 0, drawn.width, drawn.height).data ?? [];
    let black = 0;
    for (let at = 0; at < pixels.length; at += 4) {
      const [red = 255, green = 255, blue = 255, there = 0] = pixels.slice(at, at + 4);
      if (red + green + blue < 120 && there > 200) black += 1;
    }
    return black;
  });
