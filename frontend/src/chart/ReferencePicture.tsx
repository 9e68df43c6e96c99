import { useThree } from '@react-three/fiber';
import { useEffect, useState } from 'react';
import { DoubleSide, SRGBColorSpace, TextureLoader, type Box3, type Texture } from 'three';

import { placeOf, type Reference } from './references';

/** A picture behind the figure, paler than it is. */
export function ReferencePicture({ reference, box }: { reference: Reference; box: Box3 }) {
  const { invalidate } = useThree();
  const [texture, setTexture] = useState<Texture | null>(null);
  const { shown } = reference;
  useEffect(() => {
    let made: Texture | null = null;
    let left = false;
    void new TextureLoader().loadAsync(`/api/blobs/${shown}`).then((loaded) => {
      if (left) return loaded.dispose();
      loaded.colorSpace = SRGBColorSpace;
      made = loaded;
      setTexture(loaded);
      invalidate();
    });
    return () => {
      left = true;
      made?.dispose();
    };
  }, [shown, invalidate]);
  useEffect(() => invalidate(), [reference, invalidate]);
  if (!texture) return null;
  return (
    <mesh matrixAutoUpdate={false} matrix={placeOf(reference, box)} renderOrder={-1}>
      <planeGeometry args={[1, 1]} />
      <meshBasicMaterial
        map={texture}
        transparent
        opacity={0.6}
        depthWrite={false}
        side={DoubleSide}
        toneMapped={false}
      />
    </mesh>
  );
}
