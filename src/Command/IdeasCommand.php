<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Money\BoardMode;
use Nelbix\App\Money\BoardReader;
use Nelbix\App\Platform\Desk;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Placement\Idea;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:ideas', 'Says where a receipt belongs, in the order in which the board offers it; posts nothing')]
final class IdeasCommand extends CompanyCommand
{
    /** The fields of the board that the options fill. */
    private const OPTIONS = ['party' => 'customer', 'amount' => 'amount', 'date' => 'date', 'currency' => 'currency'];

    public function __construct(private readonly BoardReader $reader)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addOption('customer', null, InputOption::VALUE_REQUIRED, 'its code')
            ->addOption('amount', null, InputOption::VALUE_REQUIRED, 'what came')
            ->addOption('text', null, InputOption::VALUE_REQUIRED, 'the payer’s own words', '')
            ->addOption(
                'date',
                null,
                InputOption::VALUE_REQUIRED,
                'the day of the money, ISO; the books’ day by default',
            )
            ->addOption('currency', null, InputOption::VALUE_REQUIRED, 'the customer’s own by default', '');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $actor = $this->actor($input);
        $date =
            null === $input->getOption('date')
                ? $this->booksDay($company)
                : Day::of((string) $input->getOption('date'), 'date');
        $desk = new Desk($company, $this->user(), $actor, $this->booksDay($company));
        $board = $this->reader->read($desk, Side::Receivables, BoardMode::Receipt, [
            'party' => (string) $input->getOption('customer'),
            'amount' => (string) $input->getOption('amount'),
            'date' => $date->iso(),
            'reference' => (string) $input->getOption('text'),
            'currency' => (string) $input->getOption('currency'),
        ]);
        $wrong = array_filter($board->problems, static fn (Problem $p): bool => isset(self::OPTIONS[$p->field]));
        if ([] !== $wrong) {
            throw Refused::all(
                array_values(
                    array_map(
                        static fn (Problem $p): Problem => new Problem(self::OPTIONS[$p->field], $p->message),
                        $wrong,
                    ),
                ),
            );
        }
        $typed = (string) $input->getOption('currency');
        if ('' !== $typed && $typed !== $board->currency) {
            throw Refused::because(
                'currency',
                \sprintf('Nothing is open in %s, and the customer’s own currency is another.', $typed),
                ProblemKind::Unknown,
            );
        }
        self::rows(
            array_map(
                static fn (Idea $i): array => [
                    'reason' => $i->why->words(),
                    'placements' => array_map(
                        static fn (int $item, array $p): array => [
                            'document' => $board->items[$item]->number,
                            'applied' => self::decimal($p['gross'], $board->currency),
                            'discount' => self::decimal($p['discount'], $board->currency),
                        ],
                        array_keys($i->placed),
                        $i->placed,
                    ),
                ],
                // oldest first is the clerk's own key, never an idea
                \array_slice($board->ideas, 0, $board->proposed),
            ),
            $input,
            $output,
        );

        return self::SUCCESS;
    }
}
