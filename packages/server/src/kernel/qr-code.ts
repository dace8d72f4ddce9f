/** A QR code (ISO/IEC 18004) as a picture in SVG. What draws it is loaded with the first one. */
export async function qrCode(text: string): Promise<string> {
  const { default: bwip } = await import('bwip-js/node');
  return bwip.toSVG({ bcid: 'qrcode', text, scale: 3 });
}
