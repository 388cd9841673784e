<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Letters;
use Nelbix\App\Platform\Paper;
use Nelbix\Core\Refused;
use Symfony\Component\Mime\Email;

/** Sends one paper to one customer or vendor, in its language, and notes that in the history. Call inside a transaction. */
final readonly class SendPaper
{
    public function __construct(
        private Paper $paper,
        private Outbox $outbox,
        private History $history,
        private Letters $letters,
    ) {
    }

    /**
     * @param array{email: string, name: string, language: string} $to
     * @param string $title in English, a word of the letters
     * @param string $number of the record, in the subject and the name of the file
     * @param array<string, mixed> $with what the template shows
     * @param array{string, int, string} $note subject, id and action of the line of history
     * @param string $from the desk that sends it
     *
     * @return string the address
     *
     * @throws Refused when no address is known
     */
    public function send(
        Actor $actor,
        Company $company,
        array $to,
        string $title,
        string $number,
        string $template,
        array $with,
        array $note,
        ?int $documentId = null,
        string $from = 'receivables',
    ): string {
        if (false === filter_var($to['email'], \FILTER_VALIDATE_EMAIL)) {
            throw Refused::because(
                '',
                \sprintf('No address is known for %s; add it on its page, or print it.', $to['name']),
            );
        }
        $title = $this->letters->say($title, $to['language']);
        $message = (new Email())
            ->from($from.'@'.strtolower($company->code).'.example')
            ->to($to['email'])
            ->subject(\sprintf('%s, %s, %s', $title, $number, $company->name))
            ->text(
                \sprintf(
                    "%s. %s\n\n%s\n%s\n",
                    $title,
                    $this->letters->say('Please find it attached.', $to['language']),
                    $company->name,
                    $company->address,
                ),
            )
            ->attach($this->paper->bytes($template, $with), $number.'.pdf', 'application/pdf');
        $this->outbox->put($actor, $message, $documentId);
        [$subject, $id, $action] = $note;
        $this->history->note($actor, $subject, $id, $action, $to['email']);

        return $to['email'];
    }
}
