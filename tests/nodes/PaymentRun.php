<?php

declare(strict_types=1);

/** A payment proposal that a clerk kept, on its way into the books. */
final readonly class PaymentRun
{
    public int $id;
    private string $at;

    /** @param string $number of the proposal, in the first company of the demo */
    public function __construct(string $number)
    {
        $this->id = Rows::one(
            "SELECT p.id FROM proposal p JOIN company c ON c.id = p.company_id AND c.code = 'BOAT' WHERE p.number = ?",
            $number,
        );
        $this->at = '/BOAT/payables/proposal/'.$this->id;
    }

    public function approve(Somebody $approver): void
    {
        $page = $approver->page($this->at);
        $approver->send($this->at.'/decide', [
            '_token' => Somebody::field($page, '_token', true),
            '_action' => 'approve',
            '_version' => Somebody::field($page, '_version'),
        ]);
    }

    public function print(Somebody $clerk): void
    {
        $page = $clerk->page($this->at);
        preg_match('/<select[^>]*name="check_book".*?value="(\d+)"/s', $page, $book);
        $clerk->send($this->at.'/print', [
            '_token' => Somebody::field($page, '_token', true),
            'check_book' => $book[1] ?? '',
            'first_number' => Somebody::field($page, 'first_number'),
        ]);
        $this->step($clerk, 'printed');
    }

    public function post(Somebody $clerk): void
    {
        $this->step($clerk, 'post');
    }

    public function posted(): int
    {
        return Rows::one('SELECT COUNT(*) FROM document WHERE proposal_id = ?', $this->id);
    }

    /** Waits until the whole run is posted. */
    public function isPosted(): bool
    {
        for ($n = 0; $n < 240; ++$n) {
            if (1 === Rows::one("SELECT COUNT(*) FROM proposal WHERE id = ? AND state = 'posted'", $this->id)) {
                return true;
            }
            usleep(500_000);
        }

        return false;
    }

    private function step(Somebody $clerk, string $step): void
    {
        $clerk->send($this->at.'/'.$step, ['_token' => Somebody::field($clerk->page($this->at), '_token', true)]);
    }
}
