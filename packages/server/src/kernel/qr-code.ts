import bwip from 'bwip-js/node';

/** A QR code (ISO/IEC 18004) as a picture in SVG. */
export const qrCode = (text: string): string => bwip.toSVG({ bcid: 'qrcode', text, scale: 3 });
