<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** A tax code may say that a bad debt corrects its tax; bad debts may go against an allowance. */
final class Version20261126000014 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Tax and allowance of bad debts';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE tax_code ADD bad_debt_corrects_tax TINYINT(1) NOT NULL DEFAULT 0');
        $this->addSql(
            "UPDATE account SET role = 'bad_debt_allowance' WHERE number = '1245' AND name = 'Allowance for bad debts' AND role IS NULL",
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE tax_code DROP bad_debt_corrects_tax');
    }
}
