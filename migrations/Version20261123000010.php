<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** What sold goods cost. Companies made before get the roles for their accounts where the standard chart has them. */
final class Version20261123000010 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Cost of sales on lines';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE document_line ADD cost BIGINT NULL');
        $this->addSql(
            "UPDATE account SET role = 'inventory' WHERE number = '1400' AND name = 'Inventory' AND role IS NULL",
        );
        $this->addSql(
            <<<SQL
            INSERT INTO account (company_id, number, name, type, role)
            SELECT c.id, '5500', 'Cost of sales', 'expense', 'cost_of_sales'
            FROM company c
            WHERE NOT EXISTS (SELECT 1 FROM account a WHERE a.company_id = c.id AND (a.number = '5500' OR a.role = 'cost_of_sales'))
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
