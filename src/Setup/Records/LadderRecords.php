<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\Records;

use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\SaveReminderLadder;
use Nelbix\App\Platform\Actor;

/** Reminder ladders. */
final readonly class LadderRecords implements RecordKind
{
    public function __construct(private Connection $db, private SaveReminderLadder $saveReminderLadder)
    {
    }

    public function kinds(): array
    {
        return ['reminder-ladders' => ['title' => 'Reminder ladders', 'one' => 'reminder ladder']];
    }

    public function fields(string $kind): array
    {
        return [
            new RecordField('code', 'Code', 'w-code', fixed: true),
            new RecordField('name', 'Name'),
            new RecordField('rungs', 'Rungs', note: 'Days past due at which each reminder goes out, such as 7 21 45.'),
            new RecordField('fees', 'Fees', note: 'What each costs the customer, such as 0 10 25; blank for nothing.'),
            new RecordField(
                'texts',
                'Texts',
                note: 'What each says, one after the other with | between; blank for plain words.',
            ),
        ];
    }

    public function rows(int $companyId, string $kind): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'retired' => (bool) $r['retired'],
                'values' => [
                    'code' => (string) $r['code'],
                    'name' => (string) $r['name'],
                    'rungs' => (string) $r['rungs'],
                    'fees' => (string) $r['fees'],
                    'texts' => (string) $r['texts'],
                ],
            ],
            $this->db->fetchAllAssociative(
                'SELECT id, code, name, rungs, fees, texts, retired FROM reminder_ladder WHERE company_id = ? ORDER BY code',
                [$companyId],
            ),
        );
    }

    public function save(Actor $actor, string $kind, array $raw, ?int $id): int
    {
        return $this->saveReminderLadder->save($actor, $raw, $id);
    }
}
