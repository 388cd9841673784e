<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** The seal: what was posted, chained by SHA-256 per company. */
final class Version20261125000030 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'The seal';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE seal (
                company_id INT NOT NULL, n INT NOT NULL, subject VARCHAR(12) NOT NULL, subject_id BIGINT NOT NULL,
                digest BINARY(32) NOT NULL, chain BINARY(32) NOT NULL, UNIQUE (company_id, subject, subject_id), PRIMARY KEY (company_id, n)
            )
            SQL
            ,
        );
        // the end of each chain; whoever seals holds it
        $this->addSql(
            <<<'SQL'
            CREATE TABLE seal_head (
                company_id INT NOT NULL, n INT NOT NULL, chain BINARY(32) NOT NULL, PRIMARY KEY (company_id)
            )
            SQL
            ,
        );
        // everything up to here is sealed, and so old that no transaction can still add to it
        $this->addSql(
            <<<'SQL'
            CREATE TABLE seal_mark (
                company_id INT NOT NULL, subject VARCHAR(12) NOT NULL, mark BIGINT NOT NULL, PRIMARY KEY (company_id, subject)
            )
            SQL
            ,
        );
        $this->addSql('CREATE INDEX to_seal ON document (company_id, posted_at)');
    }
}
