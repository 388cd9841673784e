<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Picked;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Receivables\KeepReminder;
use Nelbix\App\Receivables\RemindersQuery;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;
use Symfony\Component\Mime\Email;

/**
 * Sends the reminders that a person picked, just those that the page showed; or keeps that they went out on paper.
 *
 * @phpstan-import-type Reminder from RemindersQuery
 */
final readonly class SendReminders
{
    public function __construct(
        private Transaction $transaction,
        private Picked $picked,
        private RemindersQuery $reminders,
        private KeepReminder $keep,
        private BooksDay $booksDay,
        private Paper $paper,
        private Outbox $outbox,
    ) {
    }

    /**
     * @param list<string> $keys of the reminders that the page showed
     * @param bool $onPaper they were printed; nothing goes to the outbox
     *
     * @return int how many
     *
     * @throws Refused when one is no longer what the page showed, or has no address
     */
    public function send(Actor $actor, Company $company, array $keys, bool $onPaper): int
    {
        return $this->transaction->run(function () use ($actor, $company, $keys, $onPaper): int {
            $day = $this->booksDay->of($actor->companyId);
            $picked = $this->picked->rows(
                $actor,
                'keys',
                $keys,
                fn (): array => $this->reminders->of($actor->companyId, $actor->baseCurrency, $day),
                'Nobody is picked; Space picks a row.',
                'Somebody sent one of them, or what it says changed, since this page was loaded; look at it as it stands now.',
            );
            $missing = array_filter(
                $picked,
                static fn (array $r): bool => !$onPaper && false === filter_var($r['email'], \FILTER_VALIDATE_EMAIL),
            );
            if ([] !== $missing) {
                throw Refused::because(
                    'keys',
                    \sprintf(
                        'Nothing was sent. No address is known for %s; add it on the customer’s page, or print these.',
                        implode(', ', array_column($missing, 'name')),
                    ),
                );
            }
            foreach ($picked as $reminder) {
                if (!$onPaper) {
                    $this->outbox->put($actor, $this->message($company, $reminder, $day), null);
                }
                $this->keep->keep($actor, $reminder, $day, $onPaper ? 'on paper' : $reminder['email']);
            }

            return \count($picked);
        });
    }

    /** @param Reminder $reminder */
    private function message(Company $company, array $reminder, Day $day): Email
    {
        return (new Email())
            ->from('receivables@'.strtolower($company->code).'.example')
            ->to($reminder['email'])
            ->subject(\sprintf('Reminder %d of %s', $reminder['rung'], $company->name))
            ->text($reminder['text']."\n\n".$company->name."\n".$company->address."\n")
            ->attach(
                $this->paper->bytes('receivables/reminder_pdf.html.twig', [
                    'company' => $company,
                    'day' => $day,
                    'reminders' => [$reminder],
                ]),
                'reminder-'.$reminder['code'].'.pdf',
                'application/pdf',
            );
    }
}
