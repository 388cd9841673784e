<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Exception\UniqueConstraintViolationException;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Iban;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Keeps a mandate that a customer signed, and its end. */
final readonly class SignMandate
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param array<mixed> $raw reference, signed_on, scheme, once, iban, bic
     *
     * @throws Refused with every problem
     */
    public function sign(Actor $actor, int $partyId, array $raw): void
    {
        $this->transaction->run(function () use ($actor, $partyId, $raw): void {
            $party = $this->entities->find(Party::class, $partyId);
            if (
                null === $party
                || $party->companyId !== $actor->companyId
                || Side::Receivables !== $party->side
                || $party->nobody
            ) {
                throw Refused::because('', 'There is no such customer in this company.', ProblemKind::Unknown);
            }
            $problems = new ProblemList();
            $text = (new Fields($raw))->text(...);
            if (1 !== preg_match('#\A[A-Za-z0-9+?/:().,\' -]{1,35}\z#', $text('reference'))) {
                $problems->add(
                    'reference',
                    'The reference of a mandate has up to 35 letters, digits and + ? / : ( ) . , \' -.',
                );
            }
            $today = $this->booksDay->of($actor->companyId);
            $signed = $problems->attempt(
                fn (): Day => $this->booksDay->input($actor->companyId)->read($text('signed_on'), 'signed_on'),
            );
            if (null !== $signed && $today->isBefore($signed)) {
                $problems->add('signed_on', 'It was signed today or before.');
            }
            $scheme = '' === $text('scheme') ? 'CORE' : $text('scheme');
            if (!isset(Mandate::SCHEMES[$scheme])) {
                $problems->add('scheme', 'A mandate is CORE or B2B.');
            }
            $iban = $problems->attempt(static fn (): string => Iban::read($text('iban')));
            if (1 !== preg_match('/\A([A-Z]{6}[A-Z0-9]{2}([A-Z0-9]{3})?)?\z/', $text('bic'))) {
                $problems->add('bic', 'A BIC has 8 or 11 characters; it may be left out.');
            }
            $problems->refuse();
            if (null === $signed || null === $iban) {
                throw new \LogicException('What cannot be read was refused.');
            }
            $mandate = new Mandate(
                $actor->companyId,
                $partyId,
                $text('reference'),
                $signed,
                $scheme,
                (new Fields($raw))->yes('once'),
                $iban,
                $text('bic'),
                $actor->userId,
                $this->clock->now(),
            );
            try {
                $this->entities->persist($mandate);
                $this->entities->flush();
            } catch (UniqueConstraintViolationException) {
                throw Refused::because(
                    'reference',
                    'There is a mandate with this reference already.',
                    ProblemKind::Taken,
                );
            }
            $this->history->note($actor, 'party', $partyId, 'mandate signed', $mandate->reference);
        });
    }

    /**
     * @throws Refused without a reason, or when it ended already
     */
    public function end(Actor $actor, int $id, string $why): Mandate
    {
        if ('' === trim($why)) {
            throw Refused::because(
                'why',
                'Say why the mandate ends; the history keeps your words.',
                ProblemKind::Missing,
            );
        }

        return $this->transaction->run(function () use ($actor, $id, $why): Mandate {
            $mandate = $this->entities->find(Mandate::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null === $mandate || $mandate->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such mandate in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($mandate, LockMode::PESSIMISTIC_WRITE);
            if (null !== $mandate->endedOn) {
                throw Refused::because('', \sprintf('%s ended on %s.', $mandate->reference, $mandate->endedOn->long()));
            }
            $mandate->endedOn = $this->booksDay->of($actor->companyId);
            $mandate->endedWhy = mb_substr(trim($why), 0, 255);
            $this->entities->flush();
            $this->history->note(
                $actor,
                'party',
                $mandate->partyId,
                'mandate ended',
                $mandate->reference.': '.$mandate->endedWhy,
            );

            return $mandate;
        });
    }
}
