<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Keeps what stands on the company's paper, name, address, tax number; and the time zone its day follows. */
final readonly class KeepCompany
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw name, address, city, country (two letters), tax_number, time_zone
     *
     * @throws Refused with every problem
     */
    public function keep(Actor $actor, array $raw): void
    {
        $this->transaction->run(function () use ($actor, $raw): void {
            $text = (new Fields($raw))->text(...);
            $problems = new ProblemList();
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 120));
            foreach (['address' => 255, 'city' => 120, 'tax_number' => 40] as $key => $most) {
                if (mb_strlen($text($key)) > $most) {
                    $problems->add($key, \sprintf('This is longer than %d characters; shorten it.', $most));
                }
            }
            if ('' !== $text('country') && 1 !== preg_match('/\A[A-Za-z]{2}\z/', $text('country'))) {
                $problems->add('country', 'A country is two letters, such as US or DK.');
            }
            if (!\in_array($text('time_zone'), \DateTimeZone::listIdentifiers(), true)) {
                $problems->add('time_zone', 'Choose a time zone from the list, such as America/Chicago.');
            }
            $problems->refuse();
            $company = $this->entities->find(Company::class, $actor->companyId) ?? throw new \LogicException();
            $values = static fn (Company $c): array => [
                'name' => $c->name,
                'address' => $c->address,
                'city' => $c->city,
                'country' => $c->country,
                'tax_number' => $c->taxNumber,
                'time_zone' => $c->timeZone,
            ];
            $before = $values($company);
            [$company->name, $company->address, $company->city, $company->country, $company->taxNumber] = [
                $text('name'),
                $text('address'),
                $text('city'),
                strtoupper($text('country')),
                $text('tax_number'),
            ];
            $company->timeZone = $text('time_zone');
            $this->history->change($actor, 'company', $company->id(), $before, $values($company));
        });
    }
}
