/** A page that somebody wants to find again. */
export interface Bookmark {
  name: string;
  page: string;
}

/** A page that was looked at. */
export interface Visit {
  /** UTC. */
  at: Date;
  page: string;
}
