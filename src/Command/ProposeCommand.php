<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\PayHabits;
use Nelbix\App\Platform\BooksDay;
use Nelbix\Core\Proposal\Decision;
use Nelbix\Core\Proposal\ProposedPayment;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:propose', 'Proposes what to pay')]
final class ProposeCommand extends CompanyCommand
{
    public function __construct(
        private readonly CriteriaReader $reader,
        private readonly MakeProposal $makeProposal,
        private readonly PayHabits $habits,
        private readonly BooksDay $booksDay,
    ) {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        foreach (
            [
                'bank',
                'pay-date',
                'due-through',
                'again-on',
                'method',
                'currency',
                'if-late',
                'at-least',
                'cash',
                'habit',
            ] as $option
        ) {
            $this->addOption($option, null, InputOption::VALUE_REQUIRED);
        }
        $this->addOption('vendor', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY)
            ->addOption('group', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY)
            ->addOption('per-invoice', null, InputOption::VALUE_NONE, 'one payment for each invoice')
            ->addOption('save', null, InputOption::VALUE_NONE, 'keep it and reserve its items');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $actor = $this->actor($input);
        $raw = [
            'vendors' => (array) $input->getOption('vendor'),
            'groups' => (array) $input->getOption('group'),
            'per_invoice' => $input->getOption('per-invoice') ? 'yes' : '',
        ];
        foreach (
            [
                'bank' => 'bank',
                'pay-date' => 'pay_date',
                'due-through' => 'due_through',
                'again-on' => 'again_on',
                'method' => 'method',
                'currency' => 'currency',
                'if-late' => 'if_late',
                'at-least' => 'at_least',
                'cash' => 'cash',
            ] as $option => $key
        ) {
            $raw[$key] = (string) $input->getOption($option);
        }
        if ('' !== ($habit = (string) $input->getOption('habit'))) {
            $payDate =
                '' === $raw['pay_date']
                    ? $this->booksDay->of($actor->companyId)
                    : $this->booksDay->input($actor->companyId)->read($raw['pay_date'], 'pay-date');
            $raw = [
                ...$this->habits->start($actor, $habit, $payDate),
                ...array_filter($raw, static fn (mixed $v): bool => [] !== $v && '' !== $v),
            ];
        }
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = $this->reader->read($actor, $raw);
        $result = $this->makeProposal->workOut($actor, $criteria);
        $db = $this->entities->getConnection();
        $numbers = $db->fetchAllKeyValue(
            <<<SQL
            SELECT i.id, d.their_number
            FROM open_item i
            JOIN document d ON d.id = i.document_id
            WHERE i.company_id = ? AND i.side = 'payables' AND i.open <> 0
            SQL
            ,
            [$actor->companyId],
        );
        $row = static fn (Decision $d, array $more): array => [
            'vendor' => $d->candidate->payee->code,
            'document' => $d->candidate->item->number,
            'their_number' => (string) ($numbers[$d->candidate->item->id] ?? ''),
            'open' => self::decimal($d->candidate->item->open, $d->candidate->item->currency),
            ...$more,
            'reason' => $d->reason->value,
        ];
        $totals = $result->totals();
        $data = [
            'in' => array_map(
                static fn (Decision $d): array => $row($d, [
                    'discount' => self::decimal($d->discount, $d->candidate->item->currency),
                    'pay' => self::decimal($d->pay(), $d->candidate->item->currency),
                ]),
                $result->in,
            ),
            'out' => array_map(static fn (Decision $d): array => $row($d, []), $result->out),
            'totals' => array_map(static fn (int $v): string => self::decimal($v, $criteria->currency), [
                'gross' => $totals['gross'],
                'discount' => $totals['discount'],
                'credits' => $totals['credits'],
                'withholding' => $totals['withholding'],
                'pay' => $totals['pay'],
                'lost' => $totals['lost'],
            ]),
            'payments' => array_map(
                static fn (ProposedPayment $p): array => [
                    'vendor' => $p->payee->code,
                    'method' => $p->payee->method,
                    'amount' => self::decimal($p->amount(), $criteria->currency),
                    'items' => \count($p->decisions),
                ],
                $result->payments,
            ),
        ];
        if ($input->getOption('save')) {
            $id = $this->makeProposal->make(
                $actor,
                $criteria,
                $bank,
                $method,
                array_filter(
                    array_map(static fn (mixed $v): string => \is_array($v) ? implode(',', $v) : (string) $v, $raw),
                ),
            );
            $data['saved'] = (string) $db->fetchOne('SELECT number FROM proposal WHERE id = ?', [$id]);
        }
        if ('json' === $input->getOption('format')) {
            self::json($data, $output);

            return self::SUCCESS;
        }
        foreach (['in', 'out', 'payments'] as $part) {
            $output->writeln(ucfirst($part).':');
            self::rows($data[$part], $input, $output);
        }
        self::rows([$data['totals']], $input, $output);

        return self::SUCCESS;
    }
}
