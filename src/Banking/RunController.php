<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Nelbix\App\Payables\Proposal;
use Nelbix\App\Payables\ProposalScreen;
use Nelbix\App\Payables\RunEntry;
use Nelbix\App\Payables\StartRun;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Typography;
use Nelbix\App\Platform\Words;
use Nelbix\App\Work\JobQuery;
use Nelbix\App\Work\JobState;
use Nelbix\App\Work\Worker;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The steps of an approved run: numbers, the printer, what came out, posting. */
#[Route('/{company}/payables/proposal/{id<\d+>}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class RunController extends ProposalScreen
{
    #[Route('/print', name: 'proposal_print', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function reserve(Desk $desk, int $id, Request $request, PrintChecks $print): Response
    {
        return $this->step($desk, $id, static function () use ($desk, $id, $request, $print): string {
            $print->print(
                $desk->actor,
                $id,
                self::int($request->request, 'check_book'),
                self::int($request->request, 'first_number'),
                mb_substr((string) $request->request->get('skipped', ''), 0, 255),
            );

            return 'The numbers are reserved and the checks are ready. Send them to the printer or open the PDF, then say what came out.';
        });
    }

    #[Route('/printer', name: 'proposal_printer', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function printer(Desk $desk, int $id, SendToPrinter $printer): Response
    {
        return $this->step($desk, $id, static function () use ($desk, $id, $printer): string {
            $job = $printer->send($desk->actor, $id);

            return null === $job['jammed']
                ? \sprintf('%d pages came out of the printer. Look at them and say so.', $job['pages'])
                : \sprintf(
                    'The printer jammed at page %d of %d. Look at the paper and say what came out.',
                    $job['jammed'],
                    $job['pages'],
                );
        });
    }

    #[Route('/printed', name: 'proposal_printed', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function printed(Desk $desk, int $id, Request $request, PrintChecks $print): Response
    {
        $numbers = static fn (string $key): array => array_values(array_map('intval', $request->request->all($key)));

        return $this->step($desk, $id, static function () use ($desk, $id, $request, $numbers, $print): string {
            $again = $print->sayWhatPrinted(
                $desk->actor,
                $id,
                $numbers('spoiled'),
                (string) $request->request->get('reason', ''),
                $numbers('blank'),
            );

            return 0 === $again
                ? 'All checks came out. The run can be posted.'
                : \sprintf(
                    '%d wait for the printer, spoiled ones under the next numbers. Print those, then say what came out.',
                    $again,
                );
        });
    }

    #[Route('/post', name: 'proposal_post', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function post(Desk $desk, int $id, StartRun $run, Worker $worker, JobQuery $jobs, RunEntry $entry): Response
    {
        return $this->step($desk, $id, static function (Proposal $proposal) use (
            $desk,
            $id,
            $run,
            $worker,
            $jobs,
            $entry,
        ): ?string {
            $number = $proposal->number;
            // a short run is posted before the page is there again; of a long one the page shows how far it is
            $state = $worker->slice($run->start($desk->actor, $id));

            return JobState::Done === $state
                ? \sprintf(
                    'Posted %s of proposal %s. %s.',
                    Words::count($jobs->last('run', $id)['done'] ?? 0, 'payment'),
                    $number,
                    self::moved($entry->of($desk->actor, $proposal)['accounts'], $desk->company->baseCurrency),
                )
                : null;
        });
    }

    /** @param list<array{number: string, name: string, debit: int, credit: int, by: array<string, int>}> $accounts */
    private static function moved(array $accounts, string $currency): string
    {
        return implode(
            ', ',
            array_map(
                static fn (array $a): string => \sprintf(
                    '%s %s %s',
                    $a['name'],
                    $a['debit'] > 0 && $a['credit'] > 0 ? 'debit and credit' : ($a['debit'] > 0 ? 'debit' : 'credit'),
                    $a['debit'] > 0 && $a['credit'] > 0
                        ? Typography::amount($a['debit'], $currency).
                            ' and '.
                            Typography::amount($a['credit'], $currency)
                        : Typography::amount(max($a['debit'], $a['credit']), $currency),
                ),
                $accounts,
            ),
        );
    }
}
