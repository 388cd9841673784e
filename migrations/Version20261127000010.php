<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** How a document was taken back is said in whole words: two of them were cut off. */
final class Version20261127000010 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'How a document was taken back, in whole words';
    }

    public function up(Schema $schema): void
    {
        $this->addSql("ALTER TABLE document MODIFY taken_back VARCHAR(30) NOT NULL DEFAULT ''");
        foreach (['returned b' => 'returned by the bank', 'rejected b' => 'rejected by the bank'] as $cut => $word) {
            $this->addSql('UPDATE document SET taken_back = ? WHERE taken_back = ?', [$word, $cut]);
        }
    }

    public function down(Schema $schema): void
    {
        $this->addSql('UPDATE document SET taken_back = LEFT(taken_back, 10)');
        $this->addSql("ALTER TABLE document MODIFY taken_back VARCHAR(10) NOT NULL DEFAULT ''");
    }
}
