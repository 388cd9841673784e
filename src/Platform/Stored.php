<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\ORM\Mapping as ORM;

/** The identifier that the database gives a record when it is stored. */
trait Stored
{
    #[ORM\Id, ORM\GeneratedValue, ORM\Column]
    public ?int $id = null;

    public function id(): int
    {
        return $this->id ?? throw new \LogicException('This record is not stored yet.');
    }
}
