<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Contracts\Service\Attribute\Required;

/** What the pages and steps of one proposal share. */
abstract class ProposalScreen extends Screen
{
    private EntityManagerInterface $entities;

    #[Required]
    public function keepEntities(EntityManagerInterface $entities): void
    {
        $this->entities = $entities;
    }

    protected function proposal(Desk $desk, int $id): Proposal
    {
        $proposal = $this->entities->find(Proposal::class, $id);

        return $proposal instanceof Proposal && $proposal->companyId === $desk->id()
            ? $proposal
            : throw $this->createNotFoundException('There is no such proposal in this company.');
    }

    /**
     * Takes a step and goes back to the review; a refusal is shown there.
     *
     * @param callable(Proposal): ?string $step says what happened
     * @param array<string, int> $at the item or payment that stands beside the review
     */
    protected function step(Desk $desk, int $id, callable $step, array $at = []): Response
    {
        $proposal = $this->proposal($desk, $id);

        return $this->act(static fn (): ?string => $step($proposal), 'proposal', [
            'company' => $desk->company->code,
            'id' => $id,
            ...array_filter($at),
        ]);
    }
}
