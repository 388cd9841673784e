<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

use Doctrine\DBAL\Exception\UniqueConstraintViolationException;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\Membership;
use Nelbix\App\People\Role;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\CompanySettings;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Somebody makes a company and is its first controller. */
final readonly class FoundCompany
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private CreateCompany $createCompany,
        private Settings $settings,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /** The first company is made by the first person, others by somebody who is a controller of one. */
    public function may(User $user): bool
    {
        return $user->memberships->exists(static fn (int $k, Membership $m): bool => Role::Controller === $m->role)
            || null === $this->entities->getRepository(Company::class)->findOneBy([]);
    }

    /**
     * @param array<mixed> $raw code, name, country (two letters), currency, first_month (1 to 12), time_zone, date_order, sales_tax
     *
     * @throws Refused with every problem
     */
    public function found(User $founder, array $raw): Company
    {
        $text = (new Fields($raw))->text(...);
        $problems = new ProblemList();
        $country = strtoupper($text('country'));
        if (!isset(Countries::names()[$country])) {
            $problems->add('country', 'Choose the country from the list.');
        }
        $currency = $problems->attempt(static fn (): string => Currency::of(strtoupper($text('currency')))->code);
        $month = (int) $text('first_month');
        if (1 !== preg_match('/\A\d{1,2}\z/', $text('first_month')) || $month < 1 || $month > 12) {
            $problems->add('first_month', 'Choose the month in which the fiscal year begins.');
        }
        if (!\in_array($text('time_zone'), \DateTimeZone::listIdentifiers(), true)) {
            $problems->add('time_zone', 'Choose a time zone from the list, such as America/Chicago.');
        }
        if (!isset(CompanySettings::CHOICES['date_order'][$text('date_order')])) {
            $problems->add('date_order', 'Choose one of the offered values.');
        }
        $tax = rtrim(str_contains($text('sales_tax'), '.') ? rtrim($text('sales_tax'), '0') : $text('sales_tax'), '.');
        if ('' !== $tax && 1 !== preg_match('/\A\d{1,2}(\.\d{1,4})?\z/', $tax)) {
            $problems->add('sales_tax', 'Give a percent such as 6.25, or nothing.');
        }
        $problems->refuse();
        $template = CompanyTemplate::ofCountry($country, $tax);
        $today = Day::fromDateTime($this->clock->now()->setTimezone(new \DateTimeZone($text('time_zone'))));

        try {
            return $this->transaction->run(function () use (
                $founder,
                $text,
                $currency,
                $country,
                $month,
                $template,
                $today,
            ): Company {
                if (!$this->may($founder)) {
                    throw Refused::because('', 'A controller makes further companies; ask one.');
                }
                $id = $this->createCompany->create(
                    strtoupper($text('code')),
                    $text('name'),
                    (string) $currency,
                    $today,
                    $template,
                    $month,
                );
                $company = $this->entities->find(Company::class, $id) ?? throw new \LogicException();
                $company->country = $country;
                $company->timeZone = $text('time_zone');
                $company->firstSteps = '';
                $this->settings->keep($id, ['date_order' => $text('date_order')]);
                $membership = new Membership($founder, $company, Role::Controller);
                $this->entities->persist($membership);
                $founder->memberships->add($membership);
                $this->history->note(Actor::of($company, $founder), 'company', $id, 'made');

                return $company;
            });
        } catch (UniqueConstraintViolationException) {
            // the same form twice at once: the other made it
            throw Refused::because(
                'code',
                'This company was made just now; choose another code for another one.',
                ProblemKind::Taken,
            );
        }
    }
}
