/** The first forms, and the sizes each has. */
export const FORMS = {
  sphere: ['wide'],
  capsule: ['wide', 'tall'],
  box: ['wide', 'deep', 'tall'],
  cylinder: ['wide', 'tall'],
  cone: ['wide', 'tall'],
  torus: ['wide', 'tall'],
  tube: ['wide'],
} as const;

export type Form = keyof typeof FORMS;
