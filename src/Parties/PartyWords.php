<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\Bundle\DoctrineBundle\Attribute\AsDoctrineListener;
use Doctrine\ORM\Events;
use Nelbix\App\Platform\WordIndex;
use Nelbix\Core\Ledger\Side;
use Symfony\Contracts\Service\ResetInterface;

/** Keeps the words by which a party is found, whoever writes it: its code, name, tax number, street and city. */
#[AsDoctrineListener(Events::postPersist)]
#[AsDoctrineListener(Events::postUpdate)]
#[AsDoctrineListener(Events::postFlush)]
final class PartyWords implements ResetInterface
{
    /** @var array<int, Party> by id */
    private array $written = [];

    public function __construct(private readonly WordIndex $index)
    {
    }

    public function postPersist(\Doctrine\ORM\Event\PostPersistEventArgs $event): void
    {
        $this->remember($event->getObject());
    }

    public function postUpdate(\Doctrine\ORM\Event\PostUpdateEventArgs $event): void
    {
        $this->remember($event->getObject());
    }

    public function postFlush(): void
    {
        $of = [];
        foreach ($this->written as $id => $party) {
            $of[$party->companyId][$party->side->value][$id] = self::text($party);
        }
        $this->written = [];
        foreach ($of as $companyId => $sides) {
            foreach ($sides as $side => $texts) {
                $this->index->put($companyId, $side, $texts, true);
            }
        }
    }

    /** @return list<int> ids of parties of a side in which every typed word is found */
    public function find(int $companyId, Side $side, string $text, int $most = 300): array
    {
        return $this->index->find($companyId, $side->value, $text, $most);
    }

    public function reset(): void
    {
        $this->written = [];
    }

    private function remember(object $written): void
    {
        if ($written instanceof Party) {
            $this->written[$written->id()] = $written;
        }
    }

    private static function text(Party $party): string
    {
        // a number is found with and without what stands between its digits
        $plain = (string) preg_replace('/[^\p{L}\p{N}]+/u', '', $party->taxNumber);

        return implode(' ', [$party->code, $party->name, $party->taxNumber, $plain, $party->street, $party->city]);
    }
}
