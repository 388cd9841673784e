<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\ParameterType;
use Nelbix\App\Platform\Actor;
use Psr\Clock\ClockInterface;
use Symfony\Component\Mime\Email;

/** Stands in for the mail server: keeps every message as the .eml file that would have left. */
final readonly class Outbox
{
    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    public function put(Actor $actor, Email $message, ?int $documentId): int
    {
        $message->date(\DateTimeImmutable::createFromInterface($this->clock->now()));
        $this->db->executeStatement(
            <<<'SQL'
            INSERT INTO outbox (company_id, document_id, recipient, subject, message, created_by_id, created_at)
            VALUES (?, ?, ?, ?, ?, ?, ?)
            SQL
            ,
            [
                $actor->companyId,
                $documentId,
                mb_substr(
                    implode(', ', array_map(static fn ($a): string => $a->getAddress(), $message->getTo())),
                    0,
                    255,
                ),
                mb_substr((string) $message->getSubject(), 0, 255),
                $message->toString(),
                $actor->userId,
                $this->clock->now()->format('Y-m-d H:i:s'),
            ],
            [4 => ParameterType::LARGE_OBJECT],
        );

        return (int) $this->db->lastInsertId();
    }
}
