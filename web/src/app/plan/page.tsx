import { PlanPage } from '@/planning/page';

export default function Page() {
  return <PlanPage />;
}
