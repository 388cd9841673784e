<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Orders; what is left of a delivery line, what invoiced it, sent it back or cleared it; invoices that do not fit. */
final class Version20261126000020 extends AbstractMigration
{
    private const AS = 'DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB';

    public function getDescription(): string
    {
        return 'Purchase orders and matching';
    }

    public function up(Schema $schema): void
    {
        $this->orders();
        $this->deliveries();
        $this->moves();
        $this->matches();
    }

    private function orders(): void
    {
        $this->addSql(
            'CREATE TABLE purchase_order ('.
                'id INT AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, number VARCHAR(30) DEFAULT NULL, party_id INT NOT NULL, '.
                'ordered_on DATE NOT NULL, wanted_by DATE DEFAULT NULL, currency CHAR(3) NOT NULL, note VARCHAR(255) NOT NULL, '.
                "approval VARCHAR(10) NOT NULL DEFAULT 'none', amount BIGINT NOT NULL, worth BIGINT NOT NULL, ".
                'created_by_id INT NOT NULL, created_at DATETIME NOT NULL, closed_on DATE DEFAULT NULL, '.
                "closed_why VARCHAR(255) NOT NULL DEFAULT '', changes INT NOT NULL DEFAULT 0, version INT NOT NULL DEFAULT 1, ".
                'UNIQUE number_idx (company_id, number), INDEX list_idx (company_id, closed_on, ordered_on), '.
                'INDEX party_idx (party_id, closed_on), FOREIGN KEY (company_id) REFERENCES company (id), '.
                'FOREIGN KEY (party_id) REFERENCES party (id), FOREIGN KEY (created_by_id) REFERENCES app_user (id)) '.
                self::AS,
        );
        $this->addSql(
            'CREATE TABLE purchase_order_line ('.
                'id INT AUTO_INCREMENT PRIMARY KEY, order_id INT NOT NULL, position SMALLINT NOT NULL, service TINYINT(1) NOT NULL, '.
                'account_id INT NOT NULL, text VARCHAR(255) NOT NULL, quantity NUMERIC(15, 4) NOT NULL, unit VARCHAR(3) NOT NULL, '.
                'price NUMERIC(17, 6) NOT NULL, amount BIGINT NOT NULL, tax_code_id INT DEFAULT NULL, cost_center_id INT DEFAULT NULL, '.
                'department_id INT DEFAULT NULL, project_id INT DEFAULT NULL, wanted_by DATE DEFAULT NULL, '.
                'received NUMERIC(15, 4) NOT NULL, invoiced NUMERIC(15, 4) NOT NULL, '.
                'UNIQUE position_idx (order_id, position), FOREIGN KEY (order_id) REFERENCES purchase_order (id), '.
                'FOREIGN KEY (account_id) REFERENCES account (id), FOREIGN KEY (tax_code_id) REFERENCES tax_code (id)) '.
                self::AS,
        );
    }

    private function deliveries(): void
    {
        $this->addSql(
            "ALTER TABLE delivery ADD remark VARCHAR(255) NOT NULL DEFAULT '', ADD open_base BIGINT NOT NULL DEFAULT 0, ".
                'ADD is_open TINYINT(1) NOT NULL DEFAULT 1, ADD INDEX waiting_idx (company_id, is_open, party_id, delivered_on), '.
                'ADD INDEX foot_idx (company_id, is_open, open_base)',
        );
        $this->addSql(
            'UPDATE delivery SET open_base = IF(reversed_on IS NULL, amount_base, 0), is_open = reversed_on IS NULL',
        );
        $this->addSql(
            "ALTER TABLE delivery_line ADD order_line_id INT DEFAULT NULL, ADD unit VARCHAR(3) NOT NULL DEFAULT '', ".
                'ADD open_quantity NUMERIC(15, 4) NOT NULL, ADD open_amount BIGINT NOT NULL DEFAULT 0, '.
                'ADD open_base BIGINT NOT NULL DEFAULT 0, ADD last_undone_on DATE DEFAULT NULL, '.
                'ADD CONSTRAINT delivery_line_order FOREIGN KEY (order_line_id) REFERENCES purchase_order_line (id)',
        );
        $this->addSql(
            'UPDATE delivery_line l JOIN delivery g ON g.id = l.delivery_id '.
                'SET l.open_quantity = l.quantity, l.open_amount = l.amount, l.open_base = l.amount_base WHERE g.reversed_on IS NULL',
        );
    }

    private function moves(): void
    {
        $this->addSql(
            'CREATE TABLE goods_slip ('.
                'id INT AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, number VARCHAR(30) DEFAULT NULL, kind VARCHAR(10) NOT NULL, '.
                'party_id INT NOT NULL, moved_on DATE NOT NULL, reason VARCHAR(255) NOT NULL, amount_base BIGINT NOT NULL, '.
                "undone_on DATE DEFAULT NULL, undone_why VARCHAR(255) NOT NULL DEFAULT '', ".
                'created_by_id INT NOT NULL, created_at DATETIME NOT NULL, UNIQUE number_idx (company_id, number), '.
                'FOREIGN KEY (company_id) REFERENCES company (id), FOREIGN KEY (party_id) REFERENCES party (id), '.
                'FOREIGN KEY (created_by_id) REFERENCES app_user (id)) '.
                self::AS,
        );
        $this->addSql(
            'CREATE TABLE goods_move ('.
                'id INT AUTO_INCREMENT PRIMARY KEY, delivery_line_id INT NOT NULL, kind VARCHAR(10) NOT NULL, account_id INT NOT NULL, '.
                'variance_account_id INT DEFAULT NULL, document_id INT DEFAULT NULL, line_position SMALLINT DEFAULT NULL, '.
                'slip_id INT DEFAULT NULL, '.
                'quantity NUMERIC(15, 4) NOT NULL, amount BIGINT NOT NULL, amount_base BIGINT NOT NULL, moved_on DATE NOT NULL, '.
                'undone_on DATE DEFAULT NULL, INDEX account_idx (account_id, moved_on), INDEX document_idx (document_id), '.
                'FOREIGN KEY (delivery_line_id) REFERENCES delivery_line (id), FOREIGN KEY (account_id) REFERENCES account (id), '.
                'FOREIGN KEY (document_id) REFERENCES document (id), FOREIGN KEY (slip_id) REFERENCES goods_slip (id)) '.
                self::AS,
        );
    }

    private function matches(): void
    {
        $this->addSql("ALTER TABLE document ADD held_for VARCHAR(10) NOT NULL DEFAULT ''");
        $this->addSql(
            'CREATE TABLE match_finding ('.
                'id INT AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, document_id INT NOT NULL, '.
                'line_position SMALLINT DEFAULT NULL, '.
                'reason VARCHAR(15) NOT NULL, said VARCHAR(255) NOT NULL, ordered_by_id INT DEFAULT NULL, '.
                'decided VARCHAR(10) DEFAULT NULL, decided_by_id INT DEFAULT NULL, decided_at DATETIME DEFAULT NULL, '.
                'INDEX waiting_idx (company_id, decided, ordered_by_id), FOREIGN KEY (company_id) REFERENCES company (id), '.
                'FOREIGN KEY (document_id) REFERENCES document (id), FOREIGN KEY (ordered_by_id) REFERENCES app_user (id)) '.
                self::AS,
        );
        foreach (['price_percent', 'price_amount', 'quantity_percent', 'quantity_units', 'total'] as $bound) {
            $this->addSql("ALTER TABLE party ADD match_$bound NUMERIC(17, 6) DEFAULT NULL");
        }
    }

    public function down(Schema $schema): void
    {
        foreach (['price_percent', 'price_amount', 'quantity_percent', 'quantity_units', 'total'] as $bound) {
            $this->addSql("ALTER TABLE party DROP match_$bound");
        }
        $this->addSql('DROP TABLE match_finding');
        $this->addSql('ALTER TABLE document DROP held_for');
        $this->addSql('DROP TABLE goods_move');
        $this->addSql('DROP TABLE goods_slip');
        $this->addSql(
            'ALTER TABLE delivery_line DROP FOREIGN KEY delivery_line_order, DROP order_line_id, DROP unit, DROP open_quantity, '.
                'DROP open_amount, DROP open_base, DROP last_undone_on',
        );
        $this->addSql(
            'ALTER TABLE delivery DROP INDEX waiting_idx, DROP INDEX foot_idx, DROP remark, DROP open_base, DROP is_open',
        );
        $this->addSql('DROP TABLE purchase_order_line');
        $this->addSql('DROP TABLE purchase_order');
    }
}
