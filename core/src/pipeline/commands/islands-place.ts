import { Equals, IsDefined } from 'class-validator';
import { checkIslandPlaces, type IslandPlace } from '../../uv/hand/places';
import { CheckedBy } from './checks';
import type { CommandKind } from './command';

class IslandsPlace {
  @Equals('islands.place') type!: 'islands.place';
  @IsDefined() @CheckedBy(checkIslandPlaces) places!: IslandPlace[];
}

/** Says which islands lie where; those not named are left to the packer. */
export const islandsPlace: CommandKind<IslandsPlace> = {
  type: 'islands.place',
  shape: IslandsPlace,
  cleaned: (c) => ({ ...c, places: checkIslandPlaces(c.places) }),
  apply(d, { places }) {
    if (places.length > 0) d.unwrap.places = places;
    else delete d.unwrap.places;
  },
  words({ places }, before) {
    const had = before.unwrap.places ?? [];
    if (places.length === 0) return 'left all islands to be packed';
    if (places.length < had.length) return `left ${had.length - places.length} of the islands to be packed`;
    const locked = places.filter((p) => p.locked).length - had.filter((p) => p.locked).length;
    if (locked !== 0 && had.length > 0) return locked > 0 ? 'locked an island' : 'unlocked an island';
    return 'placed islands by hand';
  },
  touches: () => ['unwrap/places'],
};
