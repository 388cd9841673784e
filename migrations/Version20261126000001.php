<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Words by which parties and documents are found; those that are there already get theirs. */
final class Version20261126000001 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Words to search by';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE search_word (
                company_id INT NOT NULL, subject VARCHAR(12) CHARACTER SET ascii NOT NULL, word VARCHAR(24) NOT NULL,
                subject_id INT NOT NULL, PRIMARY KEY (company_id, subject, word, subject_id),
                INDEX of_subject (subject, subject_id, word)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
            SQL
            ,
        );
        // parties are found by any part of a word of two letters and more
        $this->addSql(
            self::words(
                'party',
                't.side',
                "CONCAT_WS(' ', t.code, t.name, t.tax_number, REGEXP_REPLACE(t.tax_number, '[^[:alnum:]]+', ''), t.street, t.city)",
                'SUBSTRING(j.word, s.seq)',
                'JOIN seq_1_to_24 s ON s.seq = 1 OR s.seq <= CHAR_LENGTH(j.word) - 1',
            ),
        );
        // posted documents by the beginnings of the words of their texts
        $this->addSql(
            self::words(
                'document',
                "'document'",
                "CONCAT_WS(' ', t.description, t.reference)",
                'j.word',
                "WHERE t.state <> 'draft'",
            ),
        );
        $this->addSql(
            str_replace(
                ['FROM document t', 't.id', 't.company_id'],
                ['FROM document_line t JOIN document d ON d.id = t.document_id', 't.document_id', 'd.company_id'],
                self::words('document', "'document'", 't.text', 'j.word', "WHERE d.state <> 'draft'"),
            ),
        );
        $this->addSql('ALTER TABLE document ADD INDEX their_key (company_id, their_key)');
        $this->addSql('ALTER TABLE party ADD INDEX by_name (company_id, side, name)');
    }

    private static function words(string $table, string $subject, string $text, string $word, string $more): string
    {
        return <<<SQL
        INSERT IGNORE INTO search_word (company_id, subject, subject_id, word)
        SELECT t.company_id, $subject, t.id, LOWER($word)
        FROM $table t
        JOIN JSON_TABLE(
            CONCAT('["', REPLACE(TRIM(REGEXP_REPLACE($text, '[^[:alnum:]]+', ' ')), ' ', '","'), '"]'),
            '$[*]' COLUMNS (word VARCHAR(24) PATH '$')
        ) j ON j.word <> ''
        $more
        SQL;
    }
}
