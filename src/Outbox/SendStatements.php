<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Letters;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Receivables\AccountStatement;
use Nelbix\App\Receivables\StatementPeriod;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\Mime\Email;

/** Sends customers their statements of account; nobody is left out in silence. */
final readonly class SendStatements
{
    public function __construct(
        private Transaction $transaction,
        private AccountStatement $statements,
        private Paper $paper,
        private Outbox $outbox,
        private History $history,
        private Letters $letters,
    ) {
    }

    /**
     * @param list<int> $parties customers
     *
     * @return int how many messages lie in the outbox now
     *
     * @throws Refused listing whose address is missing
     */
    public function send(Actor $actor, Company $company, array $parties, StatementPeriod $period): int
    {
        $statements = $this->statements->of($actor->companyId, $parties, $period->from, $period->through);
        if ([] === $statements) {
            throw Refused::because('ids', 'Pick at least one customer; Space picks a row.', ProblemKind::Missing);
        }
        $missing = [];
        foreach ($statements as $s) {
            if (false === filter_var($s['party']['email'], \FILTER_VALIDATE_EMAIL)) {
                $missing[] = $s['party']['name'].' ('.$s['party']['code'].')';
            }
        }
        if ([] !== $missing) {
            throw Refused::because(
                'ids',
                \sprintf(
                    'Nothing was sent. No address is known for %s; add it on the customer’s page, or print these.',
                    implode(', ', $missing),
                ),
            );
        }

        return $this->transaction->run(function () use ($actor, $company, $statements, $period): int {
            foreach ($statements as $s) {
                $language = (string) $s['party']['language'];
                $say = fn (string $words): string => $this->letters->say($words, $language);
                $name = \sprintf('statement-%s-%s', $s['party']['code'], $period->through->iso());
                $message = (new Email())
                    ->from('receivables@'.strtolower($company->code).'.example')
                    ->to((string) $s['party']['email'])
                    ->subject(
                        \sprintf(
                            '%s, %s, %s',
                            $say('Statement of account'),
                            $company->name,
                            Letters::day($period->through, $language),
                        ),
                    )
                    ->text(
                        \sprintf(
                            "%s. %s\n\n%s\n%s\n",
                            $say('Statement of account'),
                            $say('Please find it attached.'),
                            $company->name,
                            $company->address,
                        ),
                    )
                    ->attach(
                        $this->paper->bytes('receivables/statement_pdf.html.twig', [
                            'company' => $company,
                            'statements' => [$s],
                            'period' => $period,
                            'moves' => null !== $period->from,
                        ]),
                        $name.'.pdf',
                        'application/pdf',
                    );
                $this->outbox->put($actor, $message, null);
                $this->history->note(
                    $actor,
                    'party',
                    (int) $s['party']['id'],
                    'statement sent',
                    (string) $s['party']['email'],
                );
            }

            return \count($statements);
        });
    }
}
