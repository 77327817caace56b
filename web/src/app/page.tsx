import { Workshop } from '@/workshop/workshop';

export default function Page() {
  return <Workshop />;
}
