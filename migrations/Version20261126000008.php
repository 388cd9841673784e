<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** A document says how it was taken back: reversed, voided, bounced. */
final class Version20261126000008 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'How a document was taken back';
    }

    public function up(Schema $schema): void
    {
        $this->addSql("ALTER TABLE document ADD taken_back VARCHAR(10) NOT NULL DEFAULT ''");
        // the history has it of those that were taken back before
        $this->addSql(
            <<<'SQL'
            UPDATE document d
            SET d.taken_back = COALESCE(
                (SELECT LEFT(h.action, 10) FROM history h WHERE h.subject = 'document' AND h.subject_id = d.id
                    AND h.action IN ('reversed', 'voided', 'void', 'bounced', 'returned', 'withdrawn') ORDER BY h.id DESC LIMIT 1),
                'reversed'
            )
            WHERE d.state = 'reversed' AND d.reversed_by_id IS NOT NULL
            SQL
            ,
        );
    }
}
