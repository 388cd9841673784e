<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Formats\Iban;
use Nelbix\Core\Formats\RoutingNumber;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Proposal\IfPaidLate;
use Nelbix\Core\Refused;

/** Adds or changes a vendor or customer. A change of bank details waits for a second person before payments go there. */
final readonly class SaveParty
{
    private const LIMITS = [
        'name' => 120,
        'tax_number' => 40,
        'street' => 160,
        'city' => 120,
        'country' => 60,
        'email' => 160,
        'iban' => 40,
        'bic' => 15,
        'routing_number' => 20,
        'account_number' => 40,
        'salesperson' => 80,
    ];

    public function __construct(
        private PartyItems $items,
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private CodeBook $codes,
        private Chart $chart,
        private History $history,
        private PartyDetails $details,
        private PartyProfile $profile,
        private PartyBanks $banks,
        private PartyAccounts $partyAccounts,
    ) {
    }

    /**
     * @param array<mixed> $raw the columns of a vendors or customers file; a missing key leaves the field as it is
     * @param bool $approved bank details are confirmed already (imports with --approved)
     *
     * @throws Refused with every problem
     */
    public function save(
        Actor $actor,
        Side $side,
        array $raw,
        ?int $id = null,
        bool $approved = false,
        ?int $version = null,
    ): Party {
        return $this->transaction->run(function () use ($actor, $side, $raw, $id, $approved, $version): Party {
            $problems = new ProblemList();
            $text = (new Fields($raw))->text(...);
            foreach (self::LIMITS as $key => $limit) {
                if (mb_strlen($text($key)) > $limit) {
                    $problems->add($key, \sprintf('This is longer than %d characters; shorten it.', $limit));
                }
            }
            $party = null === $id ? null : $this->entities->find(Party::class, $id);
            if (
                null !== $id
                && (null === $party || $party->companyId !== $actor->companyId || $party->side !== $side)
            ) {
                throw Refused::because(
                    '',
                    \sprintf('There is no such %s in this company.', $side->partyWord()),
                    ProblemKind::Unknown,
                );
            }
            if (null !== $party && null !== $version && $party->version !== $version) {
                throw Refused::because(
                    '',
                    'Somebody else changed this record meanwhile; load it anew and change it again.',
                );
            }
            $code = $text('code');
            if (null === $party) {
                if (1 !== preg_match('/\A[A-Za-z0-9][A-Za-z0-9._-]{0,19}\z/', $code)) {
                    $problems->add(
                        'code',
                        \sprintf(
                            '“%s” is not a code; use up to 20 letters, digits, points or dashes.',
                            mb_strimwidth($code, 0, 30, '…'),
                        ),
                    );
                } elseif (
                    null !==
                    $this->entities
                        ->getRepository(Party::class)
                        ->findOneBy(['companyId' => $actor->companyId, 'side' => $side, 'code' => $code])
                ) {
                    $problems->add(
                        'code',
                        \sprintf('There is a %s %s already; choose another code.', $side->partyWord(), $code),
                    );
                }
            }
            if ('' === $text('name') && (null === $party || \array_key_exists('name', $raw))) {
                $problems->add('name', 'The name is missing.', ProblemKind::Missing);
            }
            $currency =
                '' === $text('currency')
                    ? null
                    : $problems->attempt(static fn (): string => Currency::of($text('currency'))->code);
            $term = $problems->attempt(fn () => $this->codes->term($actor->companyId, $side, $text('terms')));
            $account =
                '' === $text('default_account')
                    ? null
                    : $problems->attempt(
                        fn (): int => $this->chart->ofLine(
                            $actor->companyId,
                            $text('default_account'),
                            'default_account',
                        ),
                    );
            if ('' !== $text('method') && !isset(Party::METHODS[$text('method')])) {
                $problems->add('method', 'The method is check, transfer or card.');
            }
            $late = '' === $text('if_late') ? IfPaidLate::CanWait : IfPaidLate::tryFrom($text('if_late'));
            if (null === $late) {
                $problems->add(
                    'if_late',
                    \sprintf(
                        '“%s” is none of stops_work, costs, can_wait.',
                        mb_strimwidth($text('if_late'), 0, 30, '…'),
                    ),
                );
            }
            $limit =
                '' === $text('credit_limit')
                    ? null
                    : $problems->attempt(
                        static fn (): int => Money::parse($text('credit_limit'), $actor->baseCurrency, 'credit_limit')
                            ->minor,
                    );
            if ('' !== $text('email') && false === filter_var($text('email'), \FILTER_VALIDATE_EMAIL)) {
                $problems->add(
                    'email',
                    \sprintf('“%s” is not an e-mail address.', mb_strimwidth($text('email'), 0, 60, '…')),
                );
            }
            $read = [
                'tax_code' => $problems
                    ->attempt(fn () => $this->codes->taxCode($actor->companyId, $side, $text('tax_code'), 'tax_code'))
                    ?->id(),
            ];
            foreach (['cost_center', 'department', 'project'] as $kind) {
                $read[$kind] = $problems->attempt(
                    fn (): ?int => $this->codes->analysis($actor->companyId, $kind, $text($kind), $kind),
                );
            }
            if (
                '' !== $text('commission_percent')
                && 1 !== preg_match('/\A\d{1,2}(\.\d{1,4})?\z/', $text('commission_percent'))
            ) {
                $problems->add('commission_percent', 'Give a percent such as 2.5.');
            }
            $iban =
                '' === $text('iban') ? '' : $problems->attempt(static fn (): string => Iban::read($text('iban'))) ?? '';
            $routing =
                '' === $text('routing_number')
                    ? ''
                    : $problems->attempt(static fn (): string => RoutingNumber::read($text('routing_number'))) ?? '';
            if (true === $party?->nobody) {
                $problems->add('code', 'It stands for payers that are not known yet, and stays as it is.');
            }
            $retired = RecordCheck::yes($text('retired'));
            if ($retired && null !== $party && $this->items->hasOpen($party->id())) {
                $problems->add(
                    'retired',
                    \sprintf('%s still has open items; settle them first, or leave it in use.', $party->name),
                );
            }
            $details = $this->details->read($actor, $raw, $problems);
            $profile = $this->profile->read($actor, $side, $party, $raw, $problems);
            $banks = $this->banks->read($raw, $problems);
            $problems->refuse();
            $before = null === $party ? [] : $this->values($party, $actor->baseCurrency);
            $bank = null === $party ? [] : self::bankOf($party);
            $others = null === $party ? [] : $this->banks->words($party->id());
            $party ??= new Party($actor->companyId, $side, $code, $text('name'));
            $this->fill(
                $party,
                $raw,
                $text,
                [
                    'currency' => $currency,
                    'term' => $term?->id(),
                    'account' => $account,
                    'late' => $late,
                    'limit' => $limit,
                    'iban' => $iban,
                    'routing' => $routing,
                    'defaults' => $read,
                ],
                $actor,
                $approved,
            );
            if (\array_key_exists('retired', $raw)) {
                $party->retired = $retired;
            }
            foreach ($profile as $property => $value) {
                $party->{$property} = $value;
            }
            $this->entities->persist($party);
            $this->entities->flush();
            $this->partyAccounts->reset();
            $told = null !== $details['stops'] || null !== $details['addresses'];
            $before += $told && [] !== $before ? $this->details->words($party->id()) : [];
            $this->details->keep($actor, $party->id(), $details);
            if ($this->banks->keep($actor, $party->id(), $banks)) {
                $this->history->note(
                    $actor,
                    'party',
                    $party->id(),
                    'other bank accounts changed',
                    History::fromTo($others, $this->banks->words($party->id())).
                        '; a second person must confirm what is new',
                );
            }
            if ([] !== $before && '' !== ($fromTo = History::fromTo($bank, self::bankOf($party)))) {
                $this->history->note(
                    $actor,
                    'party',
                    $party->id(),
                    'bank details changed',
                    $fromTo.($party->bankConfirmed ? '; confirmed' : '; a second person must confirm them'),
                );
            }
            $this->history->change($actor, 'party', $party->id(), $before, [
                ...$this->values($party, $actor->baseCurrency),
                ...$told ? $this->details->words($party->id()) : [],
            ]);

            return $party;
        });
    }

    /**
     * @param array<mixed> $raw
     * @param \Closure(string): string $text
     * @param array{currency: ?string, term: ?int, account: ?int, late: ?IfPaidLate, limit: ?int, iban: string, routing: string,
     *     defaults: array<string, ?int>} $read
     */
    private function fill(Party $party, array $raw, \Closure $text, array $read, Actor $actor, bool $approved): void
    {
        $set = static fn (string $key): bool => \array_key_exists($key, $raw);
        foreach (
            [
                'name' => 'name',
                'tax_number' => 'taxNumber',
                'street' => 'street',
                'city' => 'city',
                'country' => 'country',
                'email' => 'email',
            ] as $key => $property
        ) {
            if ($set($key)) {
                $party->{$property} = $text($key);
            }
        }
        $party->currency = $set('currency') ? $read['currency'] : $party->currency;
        $party->termId = $set('terms') ? $read['term'] : $party->termId;
        $party->defaultAccountId = $set('default_account') ? $read['account'] : $party->defaultAccountId;
        $party->ifLate = $set('if_late') ? $read['late'] ?? $party->ifLate : $party->ifLate;
        $party->creditLimit = $set('credit_limit') ? $read['limit'] : $party->creditLimit;
        $party->method = $set('method') && '' !== $text('method') ? $text('method') : $party->method;
        $party->separatePayments = $set('separate_payments')
            ? \in_array($text('separate_payments'), ['1', 'yes', 'on', 'true'], true)
            : $party->separatePayments;
        foreach (
            [
                'tax_code' => 'defaultTaxCodeId',
                'cost_center' => 'costCenterId',
                'department' => 'departmentId',
                'project' => 'projectId',
            ] as $key => $property
        ) {
            if ($set($key)) {
                $party->{$property} = $read['defaults'][$key];
            }
        }
        $party->salesperson = $set('salesperson') ? $text('salesperson') : $party->salesperson;
        if ($set('commission_percent')) {
            $party->commissionPercent = '' === $text('commission_percent') ? null : $text('commission_percent');
        }
        $bank = [$party->iban, $party->bic, $party->routingNumber, $party->accountNumber];
        $fields = [
            'iban' => 'iban',
            'bic' => 'bic',
            'routing_number' => 'routingNumber',
            'account_number' => 'accountNumber',
        ];
        foreach ($fields as $key => $property) {
            if ($set($key)) {
                $party->{$property} = match ($key) {
                    'iban' => $read['iban'],
                    'routing_number' => $read['routing'],
                    default => str_replace(' ', '', $text($key)),
                };
            }
        }
        if ($bank !== [$party->iban, $party->bic, $party->routingNumber, $party->accountNumber]) {
            // of several changes in a row the last that was confirmed is what stands beside the new one
            $party->bankBefore = $party->bankConfirmed ? implode(' / ', array_filter($bank)) : $party->bankBefore;
            $party->bankChangedById = $actor->userId;
            $party->bankConfirmed = $approved || !$party->hasBankDetails();
        }
    }

    /** @return array<string, string> for the history */
    private function values(Party $p, string $baseCurrency): array
    {
        return [
            'name' => $p->name,
            'tax_number' => $p->taxNumber,
            'street' => $p->street,
            'city' => $p->city,
            'country' => $p->country,
            'email' => $p->email,
            'currency' => $p->currency ?? '',
            'terms' => null === $p->termId ? '' : $this->codes->terms($p->companyId)[$p->termId]->code,
            'default_account' => null === $p->defaultAccountId
                    ? ''
                    : $this->chart->account($p->companyId, $p->defaultAccountId)['number'],
            'method' => $p->method,
            'if_late' => $p->ifLate->words(),
            'separate_payments' => $p->separatePayments ? 'yes' : 'no',
            'credit_limit' => null === $p->creditLimit ? '' : Money::of($p->creditLimit, $baseCurrency)->decimal(),
            'salesperson' => $p->salesperson,
            'commission_percent' => $p->commissionPercent ?? '',
            ...$this->profile->form($p, $baseCurrency),
            'retired' => $p->retired ? 'yes' : 'no',
        ];
    }

    /** @return array<string, string> */
    private static function bankOf(Party $p): array
    {
        return [
            'IBAN' => $p->iban,
            'BIC' => $p->bic,
            'routing number' => $p->routingNumber,
            'account number' => $p->accountNumber,
        ];
    }

    /**
     * A second person confirms changed bank details.
     *
     * @param string|null $seen digest of those that the person looked at (PartyBanks::digest); null when there was no page
     *
     * @throws Refused also when they are others by now
     */
    public function confirmBankDetails(Actor $actor, int $id, ?string $seen = null): Party
    {
        return $this->transaction->run(function () use ($actor, $id, $seen): Party {
            $party = $this->entities->find(Party::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null === $party || $party->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such party in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($party, LockMode::PESSIMISTIC_WRITE);
            if (null !== $seen && $this->banks->digest($party) !== $seen) {
                throw Refused::because(
                    '',
                    \sprintf(
                        'The bank details of %s were changed since this page was loaded; look at them again.',
                        $party->name,
                    ),
                    ProblemKind::Taken,
                );
            }
            $others = $this->banks->confirm($actor, $id);
            if ($party->bankConfirmed && 0 === $others && !$this->banks->waiting($id)) {
                throw Refused::because('', 'These bank details are confirmed already.');
            }
            if (0 === $others && ($party->bankConfirmed || $party->bankChangedById === $actor->userId)) {
                throw Refused::because('', 'Somebody else must confirm these bank details; you changed them.');
            }
            $party->bankConfirmed = $party->bankConfirmed || $party->bankChangedById !== $actor->userId;
            $this->history->note($actor, 'party', $id, 'bank details confirmed');

            return $party;
        });
    }

    /** Says that a vendor and a customer are one business, on both. */
    public function link(Actor $actor, int $vendorId, int $customerId): void
    {
        $this->transaction->run(function () use ($actor, $vendorId, $customerId): void {
            $vendor = $this->entities->find(Party::class, $vendorId);
            $customer = $this->entities->find(Party::class, $customerId);
            if (
                null === $vendor
                || null === $customer
                || $vendor->companyId !== $actor->companyId
                || $customer->companyId !== $actor->companyId
                || $vendor->side === $customer->side
            ) {
                throw Refused::because('linked', 'A vendor is linked with a customer of the same company.');
            }
            if ($customer->nobody) {
                throw Refused::because('linked', 'It stands for payers who are not known, and is no business.');
            }
            foreach ([[$vendor, $customer], [$customer, $vendor]] as [$one, $other]) {
                if (null !== $one->linkedPartyId && $one->linkedPartyId !== $other->id) {
                    throw Refused::because(
                        'linked',
                        \sprintf('%s is linked with another already; undo that link first.', $one->name),
                    );
                }
                $one->linkedPartyId = $other->id;
                $this->history->note($actor, 'party', $one->id(), 'linked', 'is one business with '.$other->code);
            }
        });
    }

    /** Takes the link away, on both. */
    public function unlink(Actor $actor, int $partyId): void
    {
        $this->transaction->run(function () use ($actor, $partyId): void {
            $party = $this->entities->find(Party::class, $partyId);
            $other =
                null === $party?->linkedPartyId ? null : $this->entities->find(Party::class, $party->linkedPartyId);
            if (null === $party || null === $other || $party->companyId !== $actor->companyId) {
                throw Refused::because('linked', 'There is no such link.', ProblemKind::Unknown);
            }
            $party->linkedPartyId = $other->linkedPartyId = null;
            $this->history->note($actor, 'party', $party->id(), 'link undone', $other->code);
            $this->history->note($actor, 'party', $other->id(), 'link undone', $party->code);
        });
    }
}
