<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Adds or changes a cost center, department or project. */
final readonly class SaveAnalysisCode
{
    public const KINDS = ['cost-centers' => 'cost_center', 'departments' => 'department', 'projects' => 'project'];

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /**
     * @param string $kind a key of KINDS
     * @param array<mixed> $raw code, name, retired
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, string $kind, array $raw, ?int $id = null): int
    {
        return $this->transaction->run(function () use ($actor, $kind, $raw, $id): int {
            $problems = new ProblemList();
            $text = (new Fields($raw))->text(...);
            $record = null === $id ? null : $this->entities->find(AnalysisCode::class, $id);
            if (
                null !== $id
                && (null === $record || $record->companyId !== $actor->companyId || $record->kind !== self::KINDS[$kind])
            ) {
                throw Refused::because('', 'There is no such record in this company.', ProblemKind::Unknown);
            }
            $problems->attempt(
                fn () => null === $record
                    ? RecordCheck::code($this->entities, AnalysisCode::class, $actor, $text('code'), 'code', [
                        'kind' => self::KINDS[$kind],
                    ])
                    : null,
            );
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 120));
            $problems->refuse();
            $before = null === $record ? [] : ['name' => $record->name, 'retired' => $record->retired ? 'yes' : 'no'];
            $record ??= new AnalysisCode($actor->companyId, self::KINDS[$kind], $text('code'), $text('name'));
            $record->name = $text('name');
            $record->retired = RecordCheck::yes($text('retired'));
            $this->entities->persist($record);
            $this->entities->flush();
            $this->history->change($actor, $kind, $record->id(), $before, [
                'name' => $record->name,
                'retired' => $record->retired ? 'yes' : 'no',
            ]);

            return $record->id();
        });
    }
}
