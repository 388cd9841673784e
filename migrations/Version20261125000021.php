<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Who had a hand in a record is kept as such; until now it was read out of the words of the history. */
final class Version20261125000021 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Who had a hand in a record';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE hand_in (
                id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, subject VARCHAR(20) NOT NULL,
                subject_id INT NOT NULL, user_id INT NOT NULL, UNIQUE KEY hand (company_id, subject, subject_id, user_id)
            )
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            INSERT IGNORE INTO hand_in (company_id, subject, subject_id, user_id)
            SELECT company_id, subject, subject_id, user_id
            FROM history
            WHERE subject = 'proposal' AND action NOT IN ('refused', 'approved')
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
