/** How this computer is reached: by whoever sits at it, by other computers, and by customers’ own phones. */
export { Network } from './network.js';
