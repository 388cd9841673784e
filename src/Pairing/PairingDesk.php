<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Desk;
use Nelbix\Core\Refused;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** A set as a person sees it: whether the amounts of each side are theirs to see, and in which company they act. */
final readonly class PairingDesk
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /** @throws NotFoundHttpException when the company is no side of it */
    public function set(Desk $desk, int $id): PairingSet
    {
        $set = $this->entities->find(PairingSet::class, $id);

        return null !== $set && \in_array($desk->id(), [$set->companyId, $set->otherCompanyId], true)
            ? $set
            : throw new NotFoundHttpException('There is no such pairing set in this company.');
    }

    /** Amounts of the other company appear for who works there too, and where the set says so. */
    public function sees(Desk $desk, PairingSet $set, string $side): bool
    {
        $company = $set->source($side)->companyId;
        if ($company === $desk->id() || $set->showsOther) {
            return true;
        }
        $other = $this->entities->find(Company::class, $company);

        return null !== $other && $desk->user->worksIn($other);
    }

    /** @throws Refused when amounts of the other company would show in what is posted here */
    public function mustSee(Desk $desk, PairingSet $set): void
    {
        if (!$this->sees($desk, $set, 'left') || !$this->sees($desk, $set, 'right')) {
            throw Refused::because(
                '',
                'The amounts of the other company are not shown here, so nothing can be made of them; ask somebody who works there too.',
            );
        }
    }
}
