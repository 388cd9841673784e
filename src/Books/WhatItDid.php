<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Ledger\AccountRole;

/** What posting did to the control accounts, in words: read from the entries that were written, so that a message never says more. */
final readonly class WhatItDid
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int> $documents whose entries, with those of the settlements that belong to them, are added up
     * @param list<int> $settlements that belong to no document and are added up, too
     *
     * @return string such as "Payables fell by 1,000.00 USD; vendor prepayments rose by 300.00 USD."; empty when nothing moved
     */
    public function words(Actor $actor, array $documents, array $settlements = []): string
    {
        $moved = $this->db->fetchAllKeyValue(
            <<<'SQL'
            SELECT a.role, SUM(l.base)
            FROM journal_entry e
            JOIN journal_line l ON l.entry_id = e.id
            JOIN account a ON a.id = l.account_id
            WHERE e.company_id = :company AND a.role IN (:controls) AND (
                (e.source_kind = 'document' AND e.source_id IN (:documents))
                OR (e.source_kind = 'settlement'
                    AND (e.source_id IN (SELECT id FROM settlement WHERE document_id IN (:documents)) OR e.source_id IN (:settlements)))
            )
            GROUP BY a.role
            HAVING SUM(l.base) <> 0
            SQL
            ,
            [
                'company' => $actor->companyId,
                'controls' => array_column(AccountRole::controls(), 'value'),
                'documents' => [0, ...$documents],
                'settlements' => [0, ...$settlements],
            ],
            [
                'controls' => ArrayParameterType::STRING,
                'documents' => ArrayParameterType::INTEGER,
                'settlements' => ArrayParameterType::INTEGER,
            ],
        );
        $said = [];
        foreach (AccountRole::controls() as $role) {
            $by = $role->normalSign() * (int) ($moved[$role->value] ?? 0);
            if (0 !== $by) {
                $said[] = \sprintf(
                    '%s %s by %s %s',
                    str_replace('_', ' ', $role->value),
                    $by > 0 ? 'rose' : 'fell',
                    Typography::amount(abs($by), $actor->baseCurrency),
                    $actor->baseCurrency,
                );
            }
        }

        return [] === $said ? '' : ucfirst(implode('; ', $said)).'.';
    }
}
