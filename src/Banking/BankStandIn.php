<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Formats\Payment\PaymentStatus;
use Psr\Clock\ClockInterface;

/** Stands in for the bank: takes a file, looks at it, and answers with a payment status report. Nothing leaves this machine. */
final readonly class BankStandIn
{
    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    /**
     * @param list<string> $reject what it is told to reject
     *
     * @return string pain.002
     */
    public function take(BankFile $file, array $reject, bool $whole, bool $knownAlready): string
    {
        $lines = [];
        foreach (
            $this->db->fetchFirstColumn('SELECT end_to_end FROM bank_file_line WHERE bank_file_id = ? ORDER BY id', [
                $file->id(),
            ]) as $id
        ) {
            $lines[(string) $id] = \in_array($id, $reject, true)
                ? ['accepted' => false, 'reason' => 'AC04 The account is closed']
                : ['accepted' => true, 'reason' => ''];
        }
        $refused = array_filter($lines, static fn (array $l): bool => !$l['accepted']);
        $answer = match (true) {
            $knownAlready => new PaymentStatus($file->number, 'RJCT', [], 'Duplicate: this file was taken before'),
            $whole || hash('sha256', $file->content) !== $file->digest => new PaymentStatus(
                $file->number,
                'RJCT',
                [],
                $whole ? 'The file is rejected as a whole' : 'The file was changed on its way',
            ),
            [] !== $refused => new PaymentStatus($file->number, 'PART', $lines),
            default => new PaymentStatus($file->number, 'ACCP', $lines),
        };

        // it answers in the name of the message that it was sent
        $message = FileFormat::Debit === $file->format ? 'pain.008.001.08' : 'pain.001.001.09';

        return (new PaymentStatus($answer->fileId, $answer->group, $answer->lines, $answer->reason, $message))->write(
            $this->clock->now(),
        );
    }
}
