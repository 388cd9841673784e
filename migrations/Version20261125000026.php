<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** What is kept as JSON is JSON to the database too, and columns are of the kinds that the mapping says. */
final class Version20261125000026 extends AbstractMigration
{
    private const JSON = [
        'document' => ['draft_input JSON DEFAULT NULL', 'typed JSON DEFAULT NULL'],
        'payment_term' => ['spec JSON NOT NULL'],
        'recurring' => ['form JSON NOT NULL'],
        'pay_habit' => ['criteria JSON NOT NULL'],
        'proposal' => ['criteria JSON NOT NULL'],
        'job' => ['result JSON DEFAULT NULL'],
        'period' => ['number SMALLINT NOT NULL'],
    ];

    public function getDescription(): string
    {
        return 'Mapping and schema agree';
    }

    public function up(Schema $schema): void
    {
        foreach (self::JSON as $table => $columns) {
            $modify = array_map(static fn (string $c): string => 'MODIFY '.$c, $columns);
            $this->addSql("ALTER TABLE $table ".implode(', ', $modify));
        }
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
