<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Which account of a vendor was tested by a prenote; what the printer's stand-in took. */
final class Version20261123000014 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Prenoted accounts, print jobs';
    }

    public function up(Schema $schema): void
    {
        $end = ' ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci';
        $this->addSql("ALTER TABLE party ADD prenoted VARCHAR(60) NOT NULL DEFAULT ''");
        $this->addSql('ALTER TABLE company ADD printer_jams_at SMALLINT NULL');
        $this->addSql(
            <<<'SQL'
            CREATE TABLE print_job (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, proposal_id INT NULL,
                name VARCHAR(80) NOT NULL, pages INT NOT NULL, came_out INT NOT NULL, jammed_at INT NULL,
                said TINYINT(1) NOT NULL DEFAULT 0, created_by_id INT NOT NULL, created_at DATETIME NOT NULL,
                INDEX (company_id, id), INDEX (proposal_id), FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (proposal_id) REFERENCES proposal (id), FOREIGN KEY (created_by_id) REFERENCES app_user (id))
            SQL.$end,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
