<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** An index for each order in which open items, documents, deliveries and parties are listed a page at a time. */
final class Version20261125000023 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Indexes of the lists';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            ALTER TABLE open_item
                ADD is_open TINYINT(1) GENERATED ALWAYS AS (open <> 0) STORED,
                ADD KEY due_idx (company_id, side, is_open, due_date, open, open_base),
                ADD KEY dated_idx (company_id, side, is_open, document_date),
                ADD KEY number_idx (company_id, side, is_open, number),
                ADD KEY amount_idx (company_id, side, open),
                ADD KEY moved_idx (company_id, side, last_moved_on),
                DROP KEY open_idx
            SQL
            ,
        );
        // what somebody has to do something about: drafts, what is held and what awaits approval or was refused
        $this->addSql(
            <<<'SQL'
            ALTER TABLE document
                ADD waits TINYINT(1) GENERATED ALWAYS AS (state = 'draft' OR (state = 'posted'
                    AND (approval IN ('awaiting', 'refused') OR held_reason IS NOT NULL))) STORED,
                ADD KEY waits_idx (company_id, waits, side),
                ADD KEY newest_idx (company_id, side),
                ADD KEY total_idx (company_id, total),
                ADD KEY their_number_idx (company_id, their_number)
            SQL
            ,
        );
        $this->addSql('ALTER TABLE item_discount ADD KEY through_idx (through, item_id)');
        $this->addSql('ALTER TABLE bank_check ADD KEY sum_idx (check_book_id, state, amount)');
        $this->addSql('ALTER TABLE delivery ADD KEY list_idx (company_id, delivered_on)');
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
