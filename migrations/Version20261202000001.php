<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Who holds a document, and who released a hold or took a payment stop away: it is not whoever pays then. */
final class Version20261202000001 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Who holds a document, and who released what and when';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE document ADD held_by_id INT DEFAULT NULL');
        $this->addSql(
            <<<'SQL'
            CREATE TABLE released (
                id INT AUTO_INCREMENT NOT NULL,
                company_id INT NOT NULL,
                subject VARCHAR(15) NOT NULL,
                subject_id INT NOT NULL,
                set_by_id INT DEFAULT NULL,
                released_by_id INT NOT NULL,
                released_on DATE NOT NULL,
                INDEX of_idx (subject, subject_id, released_on),
                PRIMARY KEY (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        // what is held by hand now: the last who said so
        $this->addSql(
            <<<'SQL'
            UPDATE document d
            JOIN (
                SELECT subject_id, MAX(id) AS id
                FROM history
                WHERE subject = 'document' AND action = 'held'
                GROUP BY subject_id
            ) l ON l.subject_id = d.id
            JOIN history h ON h.id = l.id
            SET d.held_by_id = h.user_id
            WHERE d.held_reason IS NOT NULL
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE released');
        $this->addSql('ALTER TABLE document DROP held_by_id');
    }
}
