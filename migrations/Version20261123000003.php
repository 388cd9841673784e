<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** What a company's invoice says about where to pay. */
final class Version20261123000003 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'IBAN and BIC of own bank accounts; uploaded files';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            "ALTER TABLE bank_account ADD iban VARCHAR(34) NOT NULL DEFAULT '', ADD bic VARCHAR(15) NOT NULL DEFAULT ''",
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE stored_file (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL,
                subject VARCHAR(30) NOT NULL, subject_id INT NULL, name VARCHAR(160) NOT NULL, media_type VARCHAR(60) NOT NULL,
                size INT NOT NULL, sha256 CHAR(64) NOT NULL, content LONGBLOB NOT NULL, created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL, INDEX (company_id, subject, subject_id),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id)) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
