<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Helper\Table;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;
use Symfony\Contracts\Service\Attribute\Required;

/** A command that works on one company as the user "console" and prints a table, or one JSON document with --format=json. */
abstract class CompanyCommand extends Command
{
    protected EntityManagerInterface $entities;
    private BooksDay $booksDay;

    #[Required]
    public function setBasics(EntityManagerInterface $entities, BooksDay $booksDay): void
    {
        $this->entities = $entities;
        $this->booksDay = $booksDay;
    }

    protected function configure(): void
    {
        $this->addOption(
            'company',
            null,
            InputOption::VALUE_REQUIRED,
            'the company’s code; the first one by default',
        )->addOption('format', null, InputOption::VALUE_REQUIRED, 'table or json', 'table');
    }

    protected function execute(InputInterface $input, OutputInterface $output): int
    {
        try {
            if (!\in_array($input->getOption('format'), ['table', 'json'], true)) {
                throw Refused::because('format', 'The format is table or json.');
            }

            return $this->work($input, $output);
        } catch (Refused $e) {
            $this->refuse($e->problems, $input, $output);

            return self::FAILURE;
        }
    }

    /** @throws Refused */
    abstract protected function work(InputInterface $input, OutputInterface $output): int;

    protected function company(InputInterface $input): Company
    {
        $code = (string) $input->getOption('company');
        $company = $this->entities
            ->getRepository(Company::class)
            ->findOneBy('' === $code ? [] : ['code' => $code], ['id' => 'ASC']);

        return $company ??
            throw Refused::because(
                'company',
                '' === $code
                    ? 'There is no company yet; make one with nelbix:company:create.'
                    : \sprintf('There is no company “%s”.', $code),
                ProblemKind::Unknown,
            );
    }

    /** @return list<Company> the named one; all of them when none is named */
    protected function companies(InputInterface $input): array
    {
        return null === $input->getOption('company')
            ? $this->entities->getRepository(Company::class)->findBy([], ['id' => 'ASC'])
            : [$this->company($input)];
    }

    protected function addAsOf(): void
    {
        $this->addOption('as-of', null, InputOption::VALUE_REQUIRED, 'the day, ISO; the books’ day by default');
    }

    protected function asOf(InputInterface $input, Company $company): Day
    {
        $typed = $input->getOption('as-of');

        return null === $typed ? $this->booksDay($company) : Day::of((string) $typed, 'as-of');
    }

    protected function booksDay(Company $company): Day
    {
        return $this->booksDay->of($company->id());
    }

    protected function addSide(): void
    {
        $this->addArgument('side', InputArgument::REQUIRED, 'payables or receivables');
    }

    protected function side(InputInterface $input): Side
    {
        return Side::tryFrom((string) $input->getArgument('side')) ??
            throw Refused::because('side', 'The side is payables or receivables.');
    }

    protected function actor(InputInterface $input): Actor
    {
        return Actor::of($this->company($input), $this->user());
    }

    /** The console's own user. */
    protected function user(): User
    {
        return $this->entities->getRepository(User::class)->findOneBy(['username' => 'console']) ??
            throw Refused::because('', 'The console’s user is missing; make a company first.', ProblemKind::Missing);
    }

    protected static function decimal(int $minor, string $currency): string
    {
        return Money::decimalOf($minor, Currency::of($currency)->digits);
    }

    /** @param array<mixed> $data */
    protected static function json(array $data, OutputInterface $output): void
    {
        $output->writeln(
            json_encode(
                $data,
                \JSON_PRETTY_PRINT | \JSON_UNESCAPED_UNICODE | \JSON_UNESCAPED_SLASHES | \JSON_THROW_ON_ERROR,
            ),
            OutputInterface::OUTPUT_RAW,
        );
    }

    /** @param list<array<string, mixed>> $rows all with the same keys */
    protected static function rows(array $rows, InputInterface $input, OutputInterface $output): void
    {
        if ('json' === $input->getOption('format')) {
            self::json($rows, $output);

            return;
        }
        if ([] === $rows) {
            $output->writeln('Nothing.');

            return;
        }
        $flat = static fn (mixed $v): string => \is_array($v)
            ? implode(
                ' ',
                array_map(
                    static fn (mixed $w): string => \is_array($w) ? implode(' ', array_map('strval', $w)) : (string) $w,
                    $v,
                ),
            )
            : (string) $v;
        (new Table($output))
            ->setHeaders(array_keys($rows[0]))
            ->setRows(array_map(static fn (array $r): array => array_map($flat, array_values($r)), $rows))
            ->render();
    }

    /** @param list<Problem> $problems */
    protected function refuse(array $problems, InputInterface $input, OutputInterface $output): void
    {
        $errors = array_map(
            static fn (Problem $p): array => ['line' => $p->line, 'field' => $p->field, 'message' => $p->message],
            $problems,
        );
        if ('json' === $input->getOption('format')) {
            self::json(['created' => 0, 'errors' => $errors], $output);

            return;
        }
        foreach ($errors as $error) {
            $output->writeln(
                trim(
                    \sprintf(
                        '%s%s %s',
                        null === $error['line'] ? '' : 'line '.$error['line'].': ',
                        '' === $error['field'] ? '' : $error['field'].':',
                        $error['message'],
                    ),
                ),
                OutputInterface::OUTPUT_RAW,
            );
        }
    }
}
