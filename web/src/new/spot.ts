/** A point on the earth, degrees east and north. */
export interface Spot {
  readonly longitude: number;
  readonly latitude: number;
}

/** Rounded to a tenth of a degree, inside the ranges of both. */
export function spotAt(longitude: number, latitude: number): Spot {
  const wrapped = ((((longitude + 180) % 360) + 360) % 360) - 180;
  return { longitude: Math.round(wrapped * 10) / 10, latitude: Math.round(Math.max(-90, Math.min(90, latitude)) * 10) / 10 };
}

export const spotWords = ({ longitude, latitude }: Spot): string =>
  `${Math.abs(latitude)}° ${latitude < 0 ? 'south' : 'north'}, ${Math.abs(longitude)}° ${longitude < 0 ? 'west' : 'east'}`;
