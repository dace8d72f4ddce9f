/** Another phone of the family that opens its workshop port, and an old handset that gets what it never had. */
export const OTHER = 'marl-fell-5';
export const HANDSET = 'quillon-q44';
