<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Mandates by which customers let us collect what they owe. */
final class Version20261126000016 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Mandates and direct debits';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE mandate (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                party_id INT NOT NULL,
                reference VARCHAR(35) NOT NULL,
                signed_on DATE NOT NULL,
                scheme VARCHAR(4) NOT NULL,
                once TINYINT(1) NOT NULL DEFAULT 0,
                iban VARCHAR(34) NOT NULL,
                bic VARCHAR(11) NOT NULL DEFAULT '',
                ended_on DATE DEFAULT NULL,
                ended_why VARCHAR(255) NOT NULL DEFAULT '',
                created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL,
                UNIQUE INDEX reference_uniq (company_id, reference),
                INDEX party_idx (party_id),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (party_id) REFERENCES party (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            ALTER TABLE bank_file_line
                ADD mandate_id INT DEFAULT NULL,
                ADD CONSTRAINT line_mandate FOREIGN KEY (mandate_id) REFERENCES mandate (id)
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE bank_file_line DROP FOREIGN KEY line_mandate, DROP mandate_id');
        $this->addSql('DROP TABLE mandate');
    }
}
