<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Invoices that wait for their goods, what arrived of it; and invoiced goods that went back. */
final class Version20261126000021 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Invoiced, not received';
    }

    public function up(Schema $schema): void
    {
        // where the number is taken a controller gives the role to another account
        $this->addSql(
            <<<'SQL'
            INSERT INTO account (company_id, number, name, type, role, retired)
            SELECT c.id, '1420', 'Invoiced, not received', 'asset', 'invoiced_not_received', 0
            FROM company c
            WHERE NOT EXISTS (SELECT 1 FROM account a WHERE a.company_id = c.id AND a.number = '1420')
                AND EXISTS (SELECT 1 FROM account a WHERE a.company_id = c.id)
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE goods_awaited (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                document_id INT NOT NULL,
                line_position SMALLINT NOT NULL,
                order_line_id INT NOT NULL,
                account_id INT NOT NULL,
                variance_account_id INT NOT NULL,
                quantity NUMERIC(15, 4) NOT NULL,
                amount BIGINT NOT NULL,
                amount_base BIGINT NOT NULL,
                invoiced_on DATE NOT NULL,
                open_quantity NUMERIC(15, 4) NOT NULL,
                open_amount BIGINT NOT NULL,
                open_base BIGINT NOT NULL,
                last_undone_on DATE DEFAULT NULL,
                undone_on DATE DEFAULT NULL,
                INDEX line_idx (order_line_id, open_quantity),
                INDEX account_idx (account_id, invoiced_on),
                INDEX document_idx (document_id),
                INDEX waiting_idx (company_id, open_quantity),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (document_id) REFERENCES document (id),
                FOREIGN KEY (order_line_id) REFERENCES purchase_order_line (id),
                FOREIGN KEY (account_id) REFERENCES account (id),
                FOREIGN KEY (variance_account_id) REFERENCES account (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE goods_arrival (
                id INT AUTO_INCREMENT PRIMARY KEY,
                awaited_id INT NOT NULL,
                delivery_line_id INT DEFAULT NULL,
                slip_id INT NOT NULL,
                account_id INT NOT NULL,
                quantity NUMERIC(15, 4) NOT NULL,
                amount BIGINT NOT NULL,
                amount_base BIGINT NOT NULL,
                moved_on DATE NOT NULL,
                undone_on DATE DEFAULT NULL,
                INDEX account_idx (account_id, moved_on),
                FOREIGN KEY (awaited_id) REFERENCES goods_awaited (id),
                FOREIGN KEY (delivery_line_id) REFERENCES delivery_line (id),
                FOREIGN KEY (slip_id) REFERENCES goods_slip (id),
                FOREIGN KEY (account_id) REFERENCES account (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE goods_claim (
                id INT AUTO_INCREMENT PRIMARY KEY,
                slip_id INT NOT NULL,
                delivery_line_id INT NOT NULL,
                document_id INT NOT NULL,
                invoice_id INT NOT NULL,
                line_position SMALLINT NOT NULL,
                quantity NUMERIC(15, 4) NOT NULL,
                moved_on DATE NOT NULL,
                undone_on DATE DEFAULT NULL,
                INDEX invoice_idx (invoice_id, line_position),
                FOREIGN KEY (slip_id) REFERENCES goods_slip (id),
                FOREIGN KEY (delivery_line_id) REFERENCES delivery_line (id),
                FOREIGN KEY (document_id) REFERENCES document (id),
                FOREIGN KEY (invoice_id) REFERENCES document (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql('ALTER TABLE delivery ADD INDEX open_list_idx (company_id, is_open, delivered_on)');
        $this->addSql(
            'ALTER TABLE goods_slip ADD delivery_id INT DEFAULT NULL, ADD document_id INT DEFAULT NULL, '.
                'ADD CONSTRAINT slip_delivery FOREIGN KEY (delivery_id) REFERENCES delivery (id), '.
                'ADD CONSTRAINT slip_document FOREIGN KEY (document_id) REFERENCES document (id)',
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE delivery DROP INDEX open_list_idx');
        $this->addSql('DROP TABLE goods_claim');
        $this->addSql('DROP TABLE goods_arrival');
        $this->addSql('DROP TABLE goods_awaited');
        $this->addSql(
            'ALTER TABLE goods_slip DROP FOREIGN KEY slip_delivery, DROP FOREIGN KEY slip_document, DROP delivery_id, DROP document_id',
        );
        $this->addSql(
            <<<'SQL'
            DELETE FROM account
            WHERE role = 'invoiced_not_received' AND NOT EXISTS (SELECT 1 FROM journal_line l WHERE l.account_id = account.id)
            SQL
            ,
        );
        $this->addSql("UPDATE account SET role = NULL WHERE role = 'invoiced_not_received'");
    }
}
