import { IsIn } from 'class-validator';
import type { Travel } from '../../inspect/relations';
import { Between, FAR } from './checks';

/** How a part moves, as a request brings it. */
export class TravelShape implements Travel {
  @IsIn(['slide', 'turn']) kind!: Travel['kind'];
  @IsIn(['x', 'y', 'z']) axis!: Travel['axis'];
  @Between(-FAR, FAR) from!: number;
  @Between(-FAR, FAR) to!: number;
  @Between(-FAR, FAR) x!: number;
  @Between(-FAR, FAR) y!: number;
  @Between(-FAR, FAR) z!: number;
}
