'use client';

import Box from '@mui/material/Box';
import { DataGrid, type GridColDef, type GridRowSelectionModel } from '@mui/x-data-grid';
import { fieldName } from '@wellmorph/core/pipeline/field-names';
import { useMemo } from 'react';
import type { LoggedRun, RunsWanted } from '@/server/db/runs';
import { STATIONS } from '@/shared/stations';
import { tookTime } from '@/shared/times';
import { inFigures, shownValue } from '@/sheet/trial-words';
import { useNonce } from '@/theme/nonce';
import { MONO } from '@/theme/theme';
import { COLUMNS, when } from './wanted';

interface Props {
  runs: readonly LoggedRun[];
  total: number;
  loading: boolean;
  stage?: string;
  page: number;
  size: number;
  sort: Pick<RunsWanted, 'sort' | 'order'>;
  onSort(sort: Pick<RunsWanted, 'sort' | 'order'>): void;
  onPage(page: number): void;
  chosen: readonly string[];
  onChosen(ids: string[]): void;
}

const stageName = (id: string): string => STATIONS.find((s) => s.id === id)?.name ?? id;
const VERDICTS: Record<string, { words: string; colour: string }> = {
  kept: { words: 'kept', colour: 'success.main' },
  dropped: { words: 'dropped', colour: 'error.main' },
};

/** The runs as a plain table; filtered, put in order and paged by the database. */
export function RunTable({ runs, total, loading, stage, page, size, sort, onSort, onPage, chosen, onChosen }: Props) {
  const columns = useMemo((): GridColDef<LoggedRun>[] => {
    // Runs of one stage are told by the same figures, which then stand under each other and can be put in order.
    const figures = stage ? (COLUMNS[stage] ?? []) : [];
    return [
      { field: 'number', headerName: 'run', width: 50, cellClassName: 'mono', align: 'right', headerAlign: 'right' },
      { field: 'at', headerName: 'when', width: 110, cellClassName: 'mono', valueFormatter: (at: string) => when(at) },
      {
        field: 'asset',
        headerName: 'piece',
        width: 104,
        renderCell: ({ row }) => (row.deleted ? <s title="This piece was deleted">{row.asset}</s> : row.asset),
      },
      ...(stage ? [] : [{ field: 'stage', headerName: 'stage', width: 66, valueFormatter: stageName } as GridColDef<LoggedRun>]),
      { field: 'title', headerName: 'tried', flex: 1, minWidth: 104 },
      ...(figures.length > 0
        ? figures.map(
            (key): GridColDef<LoggedRun> => ({
              field: `figure.${key}`,
              headerName: fieldName(key),
              width: 86,
              align: 'right',
              headerAlign: 'right',
              cellClassName: 'mono',
              valueGetter: (_, row) => row.figures[key],
              valueFormatter: (v) => (v === undefined ? '–' : shownValue(key, v, 'mm')),
            }),
          )
        : [
            {
              field: 'figures',
              headerName: 'came to',
              flex: 1,
              minWidth: 124,
              sortable: false,
              cellClassName: 'mono',
              valueGetter: (_, row) => inFigures(row, 'mm'),
            } as GridColDef<LoggedRun>,
          ]),
      {
        field: 'milliseconds',
        headerName: 'took',
        width: 78,
        align: 'right',
        headerAlign: 'right',
        cellClassName: 'mono',
        valueFormatter: (ms: number) => (ms > 0 ? tookTime(ms / 1000) : '–'),
      },
      {
        field: 'verdict',
        headerName: 'verdict',
        width: 74,
        renderCell: ({ row }) => {
          const v = VERDICTS[row.verdict];
          return v ? <Box sx={{ color: v.colour }}>{v.words}</Box> : '';
        },
      },
    ];
  }, [stage]);
  const nonce = useNonce();
  const selection: GridRowSelectionModel = { type: 'include', ids: new Set(chosen) };
  return (
    <DataGrid
      aria-label="runs"
      rows={runs}
      columns={columns}
      rowCount={total}
      loading={loading}
      nonce={nonce}
      rowHeight={27}
      columnHeaderHeight={30}
      checkboxSelection
      hideFooterSelectedRowCount
      disableRowSelectionExcludeModel
      disableColumnMenu
      disableColumnFilter
      keepNonExistentRowsSelected
      rowSelectionModel={selection}
      onRowSelectionModelChange={({ ids }) => {
        const now = [...ids].map(String);
        // In the order they were chosen: the first is what others are compared with.
        onChosen([...chosen.filter((id) => ids.has(id)), ...now.filter((id) => !chosen.includes(id))]);
      }}
      paginationMode="server"
      sortingMode="server"
      filterMode="server"
      pageSizeOptions={[size]}
      paginationModel={{ page, pageSize: size }}
      onPaginationModelChange={(m) => onPage(m.page)}
      sortModel={[{ field: sort.sort ?? 'at', sort: sort.order ?? 'desc' }]}
      onSortModelChange={([first]) => onSort(first ? { sort: first.field, order: first.sort ?? 'desc' } : { sort: 'at', order: 'desc' })}
      localeText={{
        noRowsLabel: 'No run is like that. Every solve, unwrap, bake, set, shot and picture is kept here as it is made.',
        // The button round the sign says it.
        columnHeaderSortIconLabel: '',
      }}
      sx={{
        height: 356,
        fontSize: 12.5,
        bgcolor: 'background.paper',
        borderRadius: 0,
        '--DataGrid-t-color-border-base': 'transparent',
        '& .MuiDataGrid-cell': { borderColor: 'sheet.faint' },
        '& .MuiDataGrid-columnHeader': { bgcolor: 'background.paper', color: 'text.secondary', fontWeight: 400 },
        '& .MuiDataGrid-columnHeaderTitle': { fontWeight: 400 },
        '& .mono': { fontFamily: MONO, fontSize: 12 },
        '& .MuiDataGrid-row.Mui-selected, & .MuiDataGrid-row.Mui-selected:hover': { bgcolor: 'sheet.tint' },
        '& .MuiDataGrid-footerContainer': { minHeight: 32, borderColor: 'divider' },
        '& .MuiTablePagination-root': { overflow: 'hidden' },
        '& .MuiTablePagination-toolbar': { minHeight: '34px !important' },
        '& .MuiTablePagination-displayedRows': { fontSize: 12.5 },
      }}
    />
  );
}
