<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/**
 * An entry names what it was posted for by kind and id instead of a column for each kind; an item that is reserved says by which
 * number, so that the books need not know proposals.
 */
final class Version20261125000019 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'The source of an entry, what an item is reserved as';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            'ALTER TABLE open_item ADD reserved_as VARCHAR(30) DEFAULT NULL, ADD INDEX reserved (reserved_by_id)',
        );
        $this->addSql('UPDATE open_item i JOIN proposal r ON r.id = i.reserved_by_id SET i.reserved_as = r.number');
        $this->addSql(
            'ALTER TABLE journal_entry ADD source_kind VARCHAR(12) DEFAULT NULL, ADD source_id INT DEFAULT NULL',
        );
        foreach (['document', 'settlement', 'delivery'] as $kind) {
            $this->addSql(
                "UPDATE journal_entry SET source_kind = '$kind', source_id = {$kind}_id ".
                    "WHERE source_kind IS NULL AND {$kind}_id IS NOT NULL",
            );
        }
        $drop = [];
        $keys = $this->connection->fetchFirstColumn(
            "SELECT constraint_name FROM information_schema.key_column_usage WHERE table_schema = DATABASE()
             AND table_name = 'journal_entry' AND column_name IN ('document_id', 'settlement_id', 'delivery_id')
             AND referenced_table_name IS NOT NULL",
        );
        foreach ($keys as $key) {
            $drop[] = 'DROP FOREIGN KEY '.$key;
        }
        $drop = [...$drop, 'DROP COLUMN document_id', 'DROP COLUMN settlement_id', 'DROP COLUMN delivery_id'];
        $this->addSql('ALTER TABLE journal_entry '.implode(', ', $drop));
        $this->addSql('ALTER TABLE journal_entry ADD INDEX source (source_kind, source_id)');
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
