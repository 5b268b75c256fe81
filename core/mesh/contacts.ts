/** How two things slide along and spring off each other, as KHR_physics_rigid_bodies says it. */
export interface Contact {
  /** Of the forces along and into a surface at which what lies on it begins to slide, 0 and up. */
  friction: number;
  /** Of the speed that is kept in a bounce, 0 … 1. */
  restitution: number;
}

/** Contact materials that hulls can have: round figures for dry surfaces, from tables of engineering. */
export const CONTACTS = {
  wood: { friction: 0.5, restitution: 0.3 },
  metal: { friction: 0.4, restitution: 0.35 },
  stone: { friction: 0.65, restitution: 0.2 },
  glass: { friction: 0.35, restitution: 0.45 },
  rubber: { friction: 0.95, restitution: 0.7 },
  rope: { friction: 0.7, restitution: 0.05 },
  cloth: { friction: 0.75, restitution: 0 },
  earth: { friction: 0.6, restitution: 0 },
  ice: { friction: 0.05, restitution: 0.2 },
} satisfies Record<string, Contact>;

export type ContactName = keyof typeof CONTACTS;

export const CONTACT_NAMES = Object.keys(CONTACTS) as ContactName[];

/** Whether a text from outside names a contact material. */
export const isContact = (name: unknown): name is ContactName =>
  CONTACT_NAMES.some((known) => known === name);
