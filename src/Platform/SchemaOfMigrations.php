<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\Bundle\DoctrineBundle\Attribute\AsDoctrineListener;
use Doctrine\DBAL\Schema\Table;
use Doctrine\DBAL\Types\Type;
use Doctrine\ORM\Tools\Event\GenerateSchemaEventArgs;
use Doctrine\ORM\Tools\ToolEvents;

/**
 * Completes what the mapping knows when it is compared with the database: the mapping says which columns there are and of what kind;
 * indexes, foreign keys and generated columns are the migrations' own.
 */
#[AsDoctrineListener(ToolEvents::postGenerateSchema)]
final readonly class SchemaOfMigrations
{
    public function postGenerateSchema(GenerateSchemaEventArgs $event): void
    {
        $manager = $event->getEntityManager()->getConnection()->createSchemaManager();
        $schema = $event->getSchema();
        foreach ($manager->introspectSchema()->getTables() as $there) {
            if ($schema->hasTable($there->getName())) {
                self::complete($schema->getTable($there->getName()), $there);
            }
        }
    }

    private static function complete(Table $mapped, Table $there): void
    {
        foreach ($there->getColumns() as $column) {
            // the database works it out by itself, nobody writes it
            if (!$mapped->hasColumn($column->getName()) && null === $column->getDefault() && !$column->getNotnull()) {
                $mapped->addColumn($column->getName(), Type::getTypeRegistry()->lookupName($column->getType()), [
                    'notnull' => false,
                ]);
            }
        }
        foreach ($mapped->getForeignKeys() as $key) {
            $mapped->removeForeignKey($key->getName());
        }
        foreach ($mapped->getIndexes() as $index) {
            if (!$index->isPrimary()) {
                $mapped->dropIndex($index->getName());
            }
        }
        foreach ($there->getIndexes() as $index) {
            if ($index->isUnique() && !$index->isPrimary()) {
                $mapped->addUniqueIndex($index->getColumns(), $index->getName(), $index->getOptions());
            } elseif (!$index->isPrimary()) {
                $mapped->addIndex($index->getColumns(), $index->getName(), $index->getFlags(), $index->getOptions());
            }
        }
        foreach ($there->getForeignKeys() as $key) {
            $mapped->addForeignKeyConstraint(
                $key->getForeignTableName(),
                array_values($key->getLocalColumns()),
                array_values($key->getForeignColumns()),
                $key->getOptions(),
                $key->getName(),
            );
        }
    }
}
