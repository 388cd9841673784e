<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Rates say where they came from; open items in other currencies are revalued as of a day, beside their control accounts. */
final class Version20261127000003 extends AbstractMigration
{
    /** Role, type, name, and the numbers that are tried in companies that are there already. */
    private const ACCOUNTS = [
        ['receivables_revaluation', 'asset', 'Receivables, revaluation', ['1210', '1219', '1299']],
        ['payables_revaluation', 'liability', 'Payables, revaluation', ['2105', '2109', '2199']],
    ];

    public function getDescription(): string
    {
        return 'Rates and revaluation';
    }

    public function up(Schema $schema): void
    {
        $end = ') DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB';
        $this->addSql("ALTER TABLE exchange_rate ADD source VARCHAR(10) DEFAULT 'typed' NOT NULL");
        $this->addSql(
            <<<SQL
            CREATE TABLE revaluation (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                as_of DATE NOT NULL,
                rates JSON NOT NULL,
                gain BIGINT NOT NULL,
                digest CHAR(64) NOT NULL,
                live TINYINT DEFAULT NULL,
                entry_id INT DEFAULT NULL,
                back_id INT DEFAULT NULL,
                undone_by_id INT DEFAULT NULL,
                undone_at DATETIME DEFAULT NULL,
                undone_why VARCHAR(255) NOT NULL,
                created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL,
                UNIQUE INDEX live_idx (company_id, as_of, live),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (entry_id) REFERENCES journal_entry (id),
                FOREIGN KEY (back_id) REFERENCES journal_entry (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE revaluation_item (
                id BIGINT AUTO_INCREMENT PRIMARY KEY,
                revaluation_id INT NOT NULL,
                item_id INT NOT NULL,
                open BIGINT NOT NULL,
                open_base BIGINT NOT NULL,
                rate NUMERIC(20, 10) NOT NULL,
                worth BIGINT NOT NULL,
                gain BIGINT NOT NULL,
                INDEX item_idx (item_id),
                FOREIGN KEY (revaluation_id) REFERENCES revaluation (id),
                FOREIGN KEY (item_id) REFERENCES open_item (id)
            $end
            SQL
            ,
        );
        foreach (self::ACCOUNTS as [$role, $type, $name, $numbers]) {
            foreach ($numbers as $number) {
                $this->addSql(
                    <<<'SQL'
                    INSERT INTO account (company_id, number, name, type, role, retired)
                    SELECT c.id, ?, ?, ?, ?, 0
                    FROM company c
                    WHERE NOT EXISTS (SELECT 1 FROM account a WHERE a.company_id = c.id AND (a.role = ? OR a.number = ?))
                    SQL
                    ,
                    [$number, $name, $type, $role, $role, $number],
                );
            }
        }
    }

    public function down(Schema $schema): void
    {
        $this->addSql(
            "UPDATE account SET role = NULL WHERE role IN ('receivables_revaluation', 'payables_revaluation')",
        );
        $this->addSql('DROP TABLE revaluation_item');
        $this->addSql('DROP TABLE revaluation');
        $this->addSql('ALTER TABLE exchange_rate DROP source');
    }
}
