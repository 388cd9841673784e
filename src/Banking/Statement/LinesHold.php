<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OnStatement;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** Entries that lines of statements are placed on. */
final readonly class LinesHold implements OnStatement
{
    public function __construct(private Connection $db)
    {
    }

    public function mustNotHold(Source $source): void
    {
        $line = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT t.day, t.amount, b.name, b.currency
            FROM journal_entry e
            JOIN statement_part y ON y.entry_id = e.id AND y.undone_at IS NULL
            JOIN statement_line t ON t.id = y.line_id
            JOIN bank_account b ON b.id = t.bank_account_id
            WHERE e.source_kind = ? AND e.source_id = ?
            LIMIT 1
            SQL
            ,
            [$source->kind->value, $source->id],
        );
        if (false !== $line) {
            throw Refused::because(
                '',
                \sprintf(
                    'It stands on the statement of %s, in the line of %s over %s %s; undo that line first.',
                    $line['name'],
                    Day::of((string) $line['day'])->long(),
                    Typography::amount((int) $line['amount'], (string) $line['currency']),
                    $line['currency'],
                ),
            );
        }
    }
}
