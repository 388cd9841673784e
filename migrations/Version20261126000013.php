<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** More credit than a customer's limit, released by somebody who approves. */
final class Version20261126000013 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Released credit';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE credit_release (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                party_id INT NOT NULL,
                amount BIGINT NOT NULL,
                until_on DATE NOT NULL,
                reason VARCHAR(255) NOT NULL,
                made_by_id INT NOT NULL,
                made_at DATETIME NOT NULL,
                INDEX party_idx (party_id, until_on),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (party_id) REFERENCES party (id),
                FOREIGN KEY (made_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE credit_release');
    }
}
