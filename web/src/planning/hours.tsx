'use client';

import Box from '@mui/material/Box';
import type { Hours } from '@wellmorph/core/plan/schedule';
import type { Plan } from '@/server/plan';
import { DateField } from '@/sheet/date-field';
import { Heading, NumberField } from '@/sheet/fields';
import { Act } from '@/sheet/plain';
import { useSetPlan } from './queries';
import { QueueMargin } from './queue';
import { dayWords, inMinutes } from './words';

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const;

/** Hours of work, days off, the machine’s hours. */
export function HoursMargin({ plan }: { plan: Plan }) {
  const set = useSetPlan();
  const { hours } = plan;
  const put = (patch: Partial<Hours>) => set.mutate({ hours: { ...hours, ...patch } });
  return (
    <>
      <Heading aside="h of work">Hours a day</Heading>
      {DAYS.map((name, i) => (
        <NumberField
          key={name}
          label={name}
          value={hours.week[i]}
          unit="h"
          kind="number"
          min={0}
          max={24}
          digits={2}
          width={72}
          onCommit={(h) => put({ week: hours.week.map((old, k) => (k === i ? h : old)) as Hours['week'] })}
        />
      ))}
      <NumberField
        label="machine by itself"
        hint="after work, and on days off"
        value={hours.machine}
        unit="h"
        kind="number"
        min={0}
        max={24}
        digits={2}
        width={72}
        onCommit={(machine) => put({ machine })}
      />
      <Box sx={{ mt: 2 }}>
        <Heading aside={hours.off.length === 0 ? 'none' : undefined}>Days off</Heading>
        {hours.off.map((day) => (
          <Box key={day} sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 13, minHeight: 24 }}>
            <span className="mono">{dayWords(day, plan.day)}</span>
            <Act quiet aria-label={`Work on ${day} after all`} onClick={() => put({ off: hours.off.filter((d) => d !== day) })}>
              remove
            </Act>
          </Box>
        ))}
        <DateField
          key={hours.off.join()}
          label="add a day"
          value={null}
          onDay={(day) => day && !hours.off.includes(day) && put({ off: [...hours.off, day].sort() })}
        />
      </Box>
      <QueueMargin />
      <Box className="narrow" sx={{ mt: 2, fontSize: 12.5, color: 'text.secondary' }}>
        {plan.spentToday >= 1 ? `${inMinutes(plan.spentToday)} of today are done. ` : ''}Time is counted by itself while a sheet is open and
        touched; five idle minutes are not. It stays on this machine.
      </Box>
    </>
  );
}
