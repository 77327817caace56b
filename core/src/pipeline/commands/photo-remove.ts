import { Equals } from 'class-validator';
import { IsId } from './checks';
import type { CommandKind } from './command';

class PhotoRemove {
  @Equals('photo.remove') type!: 'photo.remove';
  @IsId() photo!: string;
}

export const photoRemove: CommandKind<PhotoRemove> = {
  type: 'photo.remove',
  shape: PhotoRemove,
  apply(d, { photo }) {
    d.photos = (d.photos ?? []).filter((p) => p.id !== photo);
    // A shot that was seen through it frames the piece again.
    if (d.shot.photo === photo) delete d.shot.photo;
  },
  words: ({ photo }, before) => `removed the photograph ${before.photos?.find((p) => p.id === photo)?.name ?? ''}`.trim(),
  touches: ({ photo }) => [`photo/${photo}`, 'shot/photo'],
};
