<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Seal;

use Nelbix\App\Platform\HistoryPacks;

/** What is sealed, in the order in which one pass takes it. Only what never changes of a record is in its digest. */
enum SealedKind: string
{
    case Entry = 'entry';
    case Document = 'document';
    case Settlement = 'settlement';
    case Paper = 'paper';
    case BankFile = 'bank file';
    case History = 'history';

    /** A column that does not fall from row to row as they are made, and that the mark is kept in. The lowest are sealed first. */
    public function order(): string
    {
        return match ($this) {
            self::Document, self::Paper => \sprintf('UNIX_TIMESTAMP(%s)', $this->made()),
            default => 'r.id',
        };
    }

    /** The column that rows are in order of, along an index of it. */
    public function column(): string
    {
        return match ($this) {
            self::Document, self::Paper => $this->made(),
            default => 'r.id',
        };
    }

    /** Rows that do not come after :most. */
    public function upToMost(): string
    {
        return match ($this) {
            self::Document, self::Paper => $this->column().' <= FROM_UNIXTIME(:most)',
            default => $this->column().' <= :most',
        };
    }

    /** Rows of the kind, as r, that are to be sealed and made at :mark or later. Takes :company and :mark. */
    public function rows(): string
    {
        return match ($this) {
            self::Entry => 'journal_entry r WHERE r.company_id = :company AND r.id > :mark AND r.number IS NOT NULL',
            self::Document => 'document r WHERE r.company_id = :company AND r.posted_at >= FROM_UNIXTIME(:mark)',
            self::Settlement => 'settlement r WHERE r.company_id = :company AND r.id > :mark',
            self::Paper => "document d JOIN stored_file r ON r.subject = 'paper' AND r.subject_id = d.id ".
                'WHERE d.company_id = :company AND d.posted_at >= FROM_UNIXTIME(:mark)',
            self::BankFile => 'bank_file r WHERE r.company_id = :company AND r.id > :mark',
            self::History => 'history r WHERE r.company_id = :company AND r.id > :mark',
        };
    }

    /** When a row was made. */
    public function made(): string
    {
        return match ($this) {
            self::Document => 'r.posted_at',
            self::Paper => 'd.posted_at',
            self::History => 'r.happened_at',
            default => 'r.created_at',
        };
    }

    /** Puts the records of one pass in the order of their chain: entries and documents by their numbers. Takes a list of ids. */
    public function inOrder(): string
    {
        return match ($this) {
            self::Entry => 'SELECT id FROM journal_entry WHERE id IN (?) ORDER BY year, sequence',
            self::Document => 'SELECT id FROM document WHERE id IN (?) ORDER BY number, id',
            self::Settlement => 'SELECT id FROM settlement WHERE id IN (?) ORDER BY id',
            self::Paper => 'SELECT id FROM stored_file WHERE id IN (?) ORDER BY id',
            self::BankFile => 'SELECT id FROM bank_file WHERE id IN (?) ORDER BY id',
            self::History => 'SELECT id FROM history WHERE id IN (?) ORDER BY id',
        };
    }

    /**
     * Queries whose rows, of all of them one after the other, are the content of a record; each takes a list of ids and gives the id
     * first.
     *
     * @return list<string>
     */
    public function content(): array
    {
        return match ($this) {
            self::Entry => [
                'SELECT id, number, year, sequence, posting_date, currency, text, reverses_id, bypass, source_kind, source_id, '.
                'created_by_id, created_at FROM journal_entry WHERE id IN (?)',
                'SELECT entry_id, position, account_id, posting_date, base, amount, text, party_id, cost_center_id, department_id, '.
                'project_id FROM journal_line WHERE entry_id IN (?) ORDER BY entry_id, position, id',
            ],
            self::Document => [
                'SELECT id, side, kind, number, their_number, party_id, document_date, posting_date, currency, rate, net, tax, total, '.
                'total_base, discount_base, description, bank_account_id, bank_base, reverses_id, replaces_id, created_by_id, '.
                'posted_at FROM document WHERE id IN (?)',
                'SELECT document_id, position, account_id, amount, net, tax_code_id, text, cost_center_id, department_id, project_id, '.
                'quantity, price, cost, kind, allowance FROM document_line WHERE document_id IN (?) ORDER BY document_id, position, id',
                'SELECT document_id, tax_code_id, net, tax, recoverable FROM document_tax WHERE document_id IN (?) '.
                'ORDER BY document_id, id',
                'SELECT id, bank_amount FROM document WHERE bank_amount <> 0 AND id IN (?)',
                'SELECT id, on_hand_account_id FROM document WHERE on_hand_account_id IS NOT NULL AND id IN (?)',
            ],
            self::Settlement => [
                'SELECT id, side, party_id, currency, settled_on, rate, document_id, exchange, created_by_id, created_at '.
                'FROM settlement WHERE id IN (?)',
                'SELECT settlement_id, item_id, applied, applied_base FROM settlement_line WHERE settlement_id IN (?) '.
                'ORDER BY settlement_id, id',
                'SELECT settlement_id, item_id, kind, amount, amount_base, account_id FROM settlement_adjustment '.
                'WHERE settlement_id IN (?) ORDER BY settlement_id, id',
                // only where there is one: records that were sealed before it was kept stay as they are
                'SELECT settlement_id, item_id, tax, base FROM prepaid_tax WHERE settlement_id IN (?) ORDER BY settlement_id, item_id',
                "SELECT settlement_id, id, reason FROM settlement_adjustment WHERE reason <> '' AND settlement_id IN (?) ".
                'ORDER BY settlement_id, id',
            ],
            // the bytes themselves, not what is kept of them; a paper goes along when its document is put right
            self::Paper => ['SELECT id, name, media_type, size, SHA2(content, 256) FROM stored_file WHERE id IN (?)'],
            self::BankFile => [
                'SELECT id, bank_account_id, proposal_id, number, format, pay_date, payments, amount, SHA2(content, 256), '.
                'created_by_id, created_at FROM bank_file WHERE id IN (?)',
            ],
            self::History => ['SELECT '.HistoryPacks::COLUMNS.' FROM history WHERE id IN (?)'],
        };
    }

    /** What a finding calls a record. Takes :id. */
    public function name(): string
    {
        return match ($this) {
            self::Entry => 'SELECT number FROM journal_entry WHERE id = :id',
            self::Document => 'SELECT number FROM document WHERE id = :id',
            self::BankFile => 'SELECT number FROM bank_file WHERE id = :id',
            self::Settlement => "SELECT CONCAT('settlement ', id) FROM settlement WHERE id = :id",
            self::Paper => "SELECT CONCAT('paper ', id) FROM stored_file WHERE id = :id",
            self::History => "SELECT CONCAT('line ', id, ' of the history') FROM history WHERE id = :id",
        };
    }
}
