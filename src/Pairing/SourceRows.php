<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\FileStore;
use Nelbix\Core\Refused;

/**
 * Reads the rows of a source: scalar rows, one query whatever their number.
 *
 * @phpstan-type SourceRow array{source: string, number: string, amount: int, base: ?int, date: string, fields: array<string, string>,
 *     document: ?int}
 */
final readonly class SourceRows
{
    public const SUBJECT = 'pairing';

    public function __construct(private Connection $db, private FileStore $files)
    {
    }

    /**
     * @return iterable<SourceRow> in the set's currency
     *
     * @throws Refused when a file cannot be read
     */
    public function of(Source $source, string $currency): iterable
    {
        return match ($source->kind) {
            'items' => $this->items($source, $currency),
            'documents' => $this->documents($source, $currency),
            'account' => $this->postings($source, $currency),
            'bank' => $this->bank($source),
            default => $this->file($source, $currency),
        };
    }

    /** @return \Generator<SourceRow> */
    private function items(Source $s, string $currency): \Generator
    {
        [$party, $with] = $this->ofParty($s, 'i');
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT i.id, i.number, i.open AS amount, i.open_base AS base, i.document_date AS dated, i.kind, d.their_number, d.reference,
                    d.description, p.name AS party, d.id AS document
                FROM open_item i
                JOIN document d ON d.id = i.document_id
                JOIN party p ON p.id = i.party_id
                WHERE i.company_id = :company AND i.side = :side AND i.is_open = 1 AND i.currency = :currency$party
                ORDER BY i.id
                SQL
                ,
                [...$with, 'currency' => $currency],
            ) as $r
        ) {
            yield self::document('item '.$r['id'], $r);
        }
    }

    /** @return \Generator<SourceRow> each with its total, in the sign of its item */
    private function documents(Source $s, string $currency): \Generator
    {
        [$party, $with] = $this->ofParty($s, 'i');
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT d.id, d.number, SUM(i.original) AS amount, SUM(i.original_base) AS base, d.document_date AS dated, d.kind,
                    d.their_number, d.reference, d.description, p.name AS party, d.id AS document
                FROM open_item i
                JOIN document d ON d.id = i.document_id
                JOIN party p ON p.id = i.party_id
                WHERE i.company_id = :company AND i.side = :side AND i.currency = :currency AND d.state = 'posted'
                    AND d.reverses_id IS NULL$party
                GROUP BY d.id, d.number, d.document_date, d.kind, d.their_number, d.reference, d.description, p.name
                ORDER BY d.id
                SQL
                ,
                [...$with, 'currency' => $currency],
            ) as $r
        ) {
            yield self::document('document '.$r['id'], $r);
        }
    }

    /** @return array{string, array<string, mixed>} */
    private function ofParty(Source $s, string $alias): array
    {
        return [
            (null === $s->partyId ? '' : " AND $alias.party_id = :party").
            ('' === $s->since ? '' : " AND $alias.document_date >= :since"),
            [
                'company' => $s->companyId,
                'side' => $s->side->value ?? '',
                ...null === $s->partyId ? [] : ['party' => $s->partyId],
                ...'' === $s->since ? [] : ['since' => $s->since],
            ],
        ];
    }

    /**
     * @param array<string, mixed> $r
     *
     * @return SourceRow
     */
    private static function document(string $source, array $r): array
    {
        return [
            'source' => $source,
            'number' => (string) $r['number'],
            'amount' => (int) $r['amount'],
            'base' => (int) $r['base'],
            'date' => (string) $r['dated'],
            'fields' => [
                'number' => (string) $r['number'],
                'their number' => (string) $r['their_number'],
                'order' => (string) $r['reference'],
                'text' => (string) $r['description'],
                'kind' => str_replace('_', ' ', (string) $r['kind']),
                'party' => (string) $r['party'],
            ],
            'document' => (int) $r['document'],
        ];
    }

    /** @return \Generator<SourceRow> in ledger sign */
    private function postings(Source $s, string $currency): \Generator
    {
        foreach (
            $this->db->iterateAssociative(
                <<<'SQL'
                SELECT l.id, e.number, IF(e.currency = :currency, l.amount, l.base) AS amount, l.base, l.posting_date, l.text,
                    p.name AS party, IF(e.source_kind = 'document', e.source_id, NULL) AS document
                FROM journal_line l
                JOIN journal_entry e ON e.id = l.entry_id
                JOIN company c ON c.id = e.company_id
                LEFT JOIN party p ON p.id = l.party_id
                WHERE l.account_id = :account AND e.company_id = :company AND l.posting_date >= :since
                    AND (e.currency = :currency OR c.base_currency = :currency)
                ORDER BY l.id
                SQL
                ,
                [
                    'account' => $s->id,
                    'company' => $s->companyId,
                    'currency' => $currency,
                    'since' => '' === $s->since ? '0001-01-01' : $s->since,
                ],
            ) as $r
        ) {
            yield [
                'source' => 'line '.$r['id'],
                'number' => (string) $r['number'],
                'amount' => (int) $r['amount'],
                'base' => (int) $r['base'],
                'date' => (string) $r['posting_date'],
                'fields' => [
                    'number' => (string) $r['number'],
                    'text' => (string) $r['text'],
                    'party' => (string) $r['party'],
                ],
                'document' => null === $r['document'] ? null : (int) $r['document'],
            ];
        }
    }

    /** @return \Generator<SourceRow> what came in is above zero */
    private function bank(Source $s): \Generator
    {
        foreach (
            $this->db->iterateAssociative(
                <<<'SQL'
                SELECT id, amount, day, text, party, reference, check_number
                FROM statement_line
                WHERE bank_account_id = ? AND company_id = ? AND day >= ?
                ORDER BY id
                SQL
                ,
                [$s->id, $s->companyId, '' === $s->since ? '0001-01-01' : $s->since],
            ) as $r
        ) {
            yield [
                'source' => 'bank '.$r['id'],
                'number' => mb_substr((string) ('' === $r['reference'] ? $r['text'] : $r['reference']), 0, 60),
                'amount' => (int) $r['amount'],
                'base' => null,
                'date' => (string) $r['day'],
                'fields' => [
                    'reference' => (string) $r['reference'],
                    'text' => (string) $r['text'],
                    'party' => (string) $r['party'],
                    'check' => (string) $r['check_number'],
                ],
                'document' => null,
            ];
        }
    }

    /**
     * @return list<SourceRow>
     *
     * @throws Refused with every line that is wrong
     */
    private function file(Source $s, string $currency): array
    {
        $file =
            $this->files->read($s->companyId, self::SUBJECT, $s->id) ??
            throw Refused::because('file', 'The file of this side is gone; choose it again.');

        return FileRows::read($file['content'], $s, $currency);
    }
}
