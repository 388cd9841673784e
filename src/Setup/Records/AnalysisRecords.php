<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\Records;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\SaveAnalysisCode;
use Nelbix\App\Platform\Actor;

/** Cost centers, departments and projects. */
final readonly class AnalysisRecords implements RecordKind
{
    public function __construct(private Connection $db, private SaveAnalysisCode $saveAnalysisCode)
    {
    }

    public function kinds(): array
    {
        return [
            'cost-centers' => ['title' => 'Cost centers', 'one' => 'cost center'],
            'departments' => ['title' => 'Departments', 'one' => 'department'],
            'projects' => ['title' => 'Projects', 'one' => 'project'],
        ];
    }

    public function fields(string $kind): array
    {
        return [new RecordField('code', 'Code', 'w-code', fixed: true), new RecordField('name', 'Name')];
    }

    public function rows(int $companyId, string $kind): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'retired' => (bool) $r['retired'],
                'values' => ['code' => (string) $r['code'], 'name' => (string) $r['name']],
            ],
            $this->db->fetchAllAssociative(
                'SELECT id, code, name, retired FROM analysis_code WHERE company_id = ? AND kind = ? ORDER BY code',
                [$companyId, SaveAnalysisCode::KINDS[$kind]],
            ),
        );
    }

    public function save(Actor $actor, string $kind, array $raw, ?int $id): int
    {
        return $this->saveAnalysisCode->save($actor, $kind, $raw, $id);
    }
}
