<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Codes\PaymentTermRecord;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\PaymentTerm;

/** Adds or changes payment terms. Posted documents keep the dates they were given; retired terms leave the pickers. */
final readonly class SaveTerm
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private CodeBook $codes,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw code, text, use (vendors, customers, both), retired, and the keys of PaymentTerm::fromSpec
     *
     * @return int the id
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, array $raw, ?int $id = null): int
    {
        return $this->transaction->run(function () use ($actor, $raw, $id): int {
            $problems = new ProblemList();
            $text = (new Fields($raw))->text(...);
            $record =
                null === $id ? null : $this->entities->find(PaymentTermRecord::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null !== $id && (null === $record || $record->companyId !== $actor->companyId)) {
                throw Refused::because('', 'There are no such terms in this company.');
            }
            $problems->attempt(
                fn () => null === $record
                    ? RecordCheck::code($this->entities, PaymentTermRecord::class, $actor, $text('code'))
                    : null,
            );
            $problems->attempt(static fn () => RecordCheck::name($text('text'), 160, 'text'));
            if (!\in_array($text('use'), ['vendors', 'customers', 'both'], true)) {
                $problems->add('use', 'The use is vendors, customers or both.');
            }
            $term = $problems->attempt(static fn (): PaymentTerm => PaymentTerm::fromSpec($raw));
            $problems->attempt(static fn () => $term?->mustMakeSense());
            $problems->refuse();
            $spec = $term?->toSpec() ?? [];
            $before =
                null === $record
                    ? []
                    : [
                        'text' => $record->text,
                        'use' => $record->usedBy,
                        'retired' => $record->retired ? 'yes' : 'no',
                        ...$record->spec,
                    ];
            $record ??= new PaymentTermRecord($actor->companyId, $text('code'), $text('text'), $text('use'), $spec);
            $record->text = $text('text');
            $record->usedBy = $text('use');
            $record->spec = $spec;
            $record->retired = RecordCheck::yes($text('retired'));
            $this->entities->persist($record);
            $this->entities->flush();
            $this->codes->reset();
            $this->history->change($actor, 'terms', $record->id(), $before, [
                'text' => $record->text,
                'use' => $record->usedBy,
                'retired' => $record->retired ? 'yes' : 'no',
                ...$spec,
            ]);

            return $record->id();
        });
    }
}
