<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Codes\PaymentTermRecord;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\ScheduledPart;
use Nelbix\Core\Terms\TermDates;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:terms', 'Shows what payment terms make of dates and an amount')]
final class TermsCommand extends CompanyCommand
{
    public function __construct(private readonly Settings $settings)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addArgument('code', InputArgument::OPTIONAL);
        foreach (
            ['spec', 'document-date', 'posting-date', 'entry-date', 'amount', 'net', 'charges', 'currency'] as $option
        ) {
            $this->addOption($option, null, InputOption::VALUE_REQUIRED);
        }
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $option = static fn (string $name): string => (string) $input->getOption($name);
        $currency =
            '' === $option('currency')
                ? ('' === $option('spec')
                    ? $this->company($input)->baseCurrency
                    : 'USD')
                : $option('currency');
        $base = 'total';
        if ('' !== $option('spec')) {
            $spec = json_decode($option('spec'), true);
            $term = PaymentTerm::fromSpec(
                \is_array($spec) ? $spec : throw Refused::because('spec', 'The spec is not a JSON object.'),
            );
        } else {
            $company = $this->company($input);
            $base = $this->settings->of($company->id())->values['discount_base'];
            $record = $this->entities
                ->getRepository(PaymentTermRecord::class)
                ->findOneBy(['companyId' => $company->id(), 'code' => (string) $input->getArgument('code')]);
            $term = (
                $record ??
                throw Refused::because('code', \sprintf('There are no terms “%s”.', $input->getArgument('code')))
            )->term();
        }
        $document = Day::of($option('document-date'), 'document-date');
        $amount = Money::parse($option('amount'), $currency)->minor;
        $net = '' === $option('net') ? $amount : Money::parse($option('net'), $currency, 'net')->minor;
        $charges = '' === $option('charges') ? 0 : Money::parse($option('charges'), $currency, 'charges')->minor;
        $discountBase = match ($base) {
            'net' => $net,
            'net_without_charges' => $net - $charges,
            default => $amount,
        };
        $dates = new TermDates(
            $document,
            '' === $option('posting-date') ? $document : Day::of($option('posting-date'), 'posting-date'),
            '' === $option('entry-date') ? null : Day::of($option('entry-date'), 'entry-date'),
        );
        self::rows(
            array_map(
                static fn (ScheduledPart $p): array => [
                    'due' => $p->due->iso(),
                    'amount' => self::decimal($p->amount, $currency),
                    'discounts' => array_map(
                        static fn (DatedDiscount $d): array => [
                            'through' => $d->through->iso(),
                            'percent' => (string) $d->percent->stripTrailingZeros(),
                            'amount' => self::decimal($d->amount, $currency),
                        ],
                        $p->discounts,
                    ),
                ],
                $term->schedule($dates, $amount, $discountBase),
            ),
            $input,
            $output,
        );

        return self::SUCCESS;
    }
}
