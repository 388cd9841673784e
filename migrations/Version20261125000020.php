<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/**
 * Numbers are given last, so that nobody waits for one longer than a commit takes; a form that is sent twice does its work once, kept
 * in one place for every use case; the number of a reversed document is free to be entered again.
 */
final class Version20261125000020 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Numbers last, forms once, live numbers';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE done_once (
                id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, user_id INT NOT NULL, what VARCHAR(20) NOT NULL,
                form_key CHAR(40) NOT NULL, made_id INT DEFAULT NULL, made_at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP,
                UNIQUE KEY form (company_id, user_id, what, form_key)
            )
            SQL
            ,
        );
        foreach (
            ['document' => 'created_by_id', 'proposal' => 'created_by_id', 'delivery' => 'created_by_id'] as $table => $user
        ) {
            $what =
                'document' === $table
                    ? "IF(kind IN ('receipt', 'payment', 'prepayment', 'refund'), 'money', 'invoice')"
                    : "'$table'";
            $this->addSql(
                "INSERT IGNORE INTO done_once (company_id, user_id, what, form_key, made_id)
                 SELECT company_id, $user, $what, LEFT(SHA2(idempotency_key, 256), 40), id FROM $table
                 WHERE idempotency_key IS NOT NULL",
            );
            $index = (string) $this->connection->fetchOne(
                "SELECT index_name FROM information_schema.statistics
                 WHERE table_schema = DATABASE() AND table_name = '$table' AND column_name = 'idempotency_key'",
            );
            $this->addSql("ALTER TABLE $table DROP INDEX `$index`, DROP COLUMN idempotency_key");
        }
        $this->addSql(
            'ALTER TABLE journal_entry MODIFY number VARCHAR(30) DEFAULT NULL, MODIFY sequence INT DEFAULT NULL',
        );
        $this->addSql('ALTER TABLE delivery MODIFY number VARCHAR(30) DEFAULT NULL');
        $this->addSql(
            'ALTER TABLE document ADD live_number VARCHAR(30) DEFAULT NULL AFTER number, ADD INDEX number (company_id, number)',
        );
        $this->addSql("UPDATE document SET live_number = number WHERE state = 'posted'");
        $this->addSql(
            'ALTER TABLE document DROP INDEX company_id, ADD UNIQUE KEY live_number (company_id, live_number)',
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
