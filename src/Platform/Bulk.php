<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Types\Type;
use Doctrine\ORM\EntityManagerInterface;
use Doctrine\ORM\Mapping\ClassMetadata;

/**
 * Inserts new records of one kind, many a statement, after the entity's own mapping, and gives them their ids. Nobody
 * watches them for changes afterwards. Records they point to must be stored already.
 */
final class Bulk
{
    private const MOST_PLACEHOLDERS = 20_000;

    public function __construct(private readonly EntityManagerInterface $entities)
    {
    }

    /** @param list<object> $records all of one class, each with an id of its own that the database gives */
    public function insert(array $records): void
    {
        if ([] === $records) {
            return;
        }
        $class = $this->entities->getClassMetadata($records[0]::class);
        $columns = $this->columns($class);
        $db = $this->entities->getConnection();
        $names = implode(
            ', ',
            array_map(static fn (string $c): string => $db->quoteSingleIdentifier($c), array_keys($columns)),
        );
        $row = '('.implode(', ', array_fill(0, \count($columns), '?')).')';
        foreach (array_chunk($records, max(1, intdiv(self::MOST_PLACEHOLDERS, \count($columns)))) as $chunk) {
            $values = [];
            foreach ($chunk as $record) {
                foreach ($columns as $read) {
                    $values[] = $read($record);
                }
            }
            // the ids come from the statement that made them: a cluster counts them up by steps that change
            $ids = $db->fetchFirstColumn(
                'INSERT INTO '.
                    $class->getTableName().
                    ' ('.
                    $names.
                    ') VALUES '.
                    implode(', ', array_fill(0, \count($chunk), $row)).
                    ' RETURNING '.
                    $class->getSingleIdentifierColumnName(),
                $values,
            );
            foreach ($chunk as $k => $record) {
                $class->setFieldValue($record, $class->getSingleIdentifierFieldName(), (int) $ids[$k]);
            }
        }
    }

    /**
     * Stores records that are there already, every column of them, many a statement, and watches them no more. Their locks are held.
     *
     * @param list<object> $records all of one class, each with an id
     */
    public function store(array $records): void
    {
        if ([] === $records) {
            return;
        }
        $class = $this->entities->getClassMetadata($records[0]::class);
        $columns = $this->columns($class);
        $rows = [];
        foreach ($records as $record) {
            $this->entities->detach($record);
            if ($class->isVersioned) {
                $version = (string) $class->versionField;
                $class->setFieldValue($record, $version, $class->getFieldValue($record, $version) + 1);
            }
            $row = array_map(static fn (\Closure $read): mixed => $read($record), $columns);
            $id = (int) $class->getFieldValue($record, $class->getSingleIdentifierFieldName());
            /** @var non-empty-array<string, string|int|null> $plain */
            $plain = array_map(static fn (mixed $v): mixed => \is_bool($v) ? (int) $v : $v, $row);
            $rows[$id] = $plain;
        }
        $this->update($class->getTableName(), $rows);
    }

    /**
     * Changes one or more columns of many rows in one statement.
     *
     * @param non-empty-array<int, non-empty-array<string, string|int|null>> $rows new values by id, all with the same columns
     */
    public function update(string $table, array $rows): void
    {
        $db = $this->entities->getConnection();
        $columns = array_keys($rows[array_key_first($rows)]);
        $set = implode(', ', array_map(static fn (string $c): string => "t.`$c` = n.`$c`", $columns));
        foreach (array_chunk($rows, 500, true) as $chunk) {
            $select = $values = [];
            foreach ($chunk as $id => $row) {
                $select[] =
                    [] === $select
                        ? 'SELECT ? AS id, '.
                            implode(', ', array_map(static fn (string $c): string => "? AS `$c`", $columns))
                        : 'SELECT ?'.str_repeat(', ?', \count($columns));
                array_push($values, $id, ...array_values($row));
            }
            $db->executeStatement(
                "UPDATE $table t JOIN (".implode(' UNION ALL ', $select).") n ON n.id = t.id SET $set",
                $values,
            );
        }
    }

    /**
     * @param ClassMetadata<object> $class
     *
     * @return array<string, \Closure(object): mixed> what goes into each column
     */
    private function columns(ClassMetadata $class): array
    {
        $platform = $this->entities->getConnection()->getDatabasePlatform();
        $columns = [];
        foreach ($class->getFieldNames() as $field) {
            if ($class->isIdentifier($field)) {
                continue;
            }
            $type = Type::getType((string) $class->getTypeOfField($field));
            $columns[$class->getColumnName($field)] = static function (object $record) use (
                $class,
                $field,
                $type,
                $platform,
            ): mixed {
                $value = $class->getFieldValue($record, $field);

                return $type->convertToDatabaseValue($value instanceof \BackedEnum ? $value->value : $value, $platform);
            };
        }
        foreach ($class->getAssociationNames() as $association) {
            $columns[$class->getSingleAssociationJoinColumnName($association)] = static function (object $record) use (
                $class,
                $association,
            ): mixed {
                $other = $class->getFieldValue($record, $association);

                return \is_object($other) && method_exists($other, 'id') ? $other->id() : null;
            };
        }

        return $columns;
    }
}
