<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\Side;

/** Which numbers the books hold already: a vendor's own within the vendor and kind, ours within the company. */
final readonly class TakenNumbers
{
    private const ASKED = <<<'SQL'
    SELECT STRAIGHT_JOIN a.its
    FROM JSON_TABLE(:asked, '$[*]' COLUMNS (
        its VARCHAR(100) PATH '$.its',
        number VARCHAR(60) CHARSET utf8mb4 COLLATE utf8mb4_unicode_ci PATH '$.number',
        party INT PATH '$.party',
        kind VARCHAR(20) CHARSET utf8mb4 COLLATE utf8mb4_unicode_ci PATH '$.kind',
        draft INT PATH '$.draft'
    )) a
    JOIN document d ON d.company_id = :company AND d.id <> a.draft
    SQL;

    private const THEIRS =
        self::ASKED." AND d.side = 'payables' AND d.party_id = a.party AND d.kind = a.kind AND d.live_key = a.number";

    private const OURS = self::ASKED.' AND d.live_number = a.number';

    public function __construct(private Connection $db)
    {
    }

    /** What must be unique about it; null when there is nothing yet. */
    public static function key(InvoiceInput $input): ?string
    {
        if ('' === $input->number || null === $input->partyId) {
            return null;
        }
        $key = mb_strtoupper($input->number);

        return Side::Payables === $input->side ? $input->partyId.' '.$input->kind->value.' '.$key : $key;
    }

    /** The same for one alone. */
    public function isTaken(Actor $actor, InvoiceToPost $one): bool
    {
        $input = $one->input;
        $number = mb_strtoupper($input->number);

        return null !== self::key($input)
            && false !==
                (Side::Payables === $input->side
                    ? $this->db->fetchOne(
                        <<<'SQL'
                        SELECT 1
                        FROM document
                        WHERE company_id = ? AND side = ? AND party_id = ? AND kind = ? AND live_key = ? AND id <> ?
                        SQL
                        ,
                        [
                            $actor->companyId,
                            $input->side->value,
                            $input->partyId,
                            $input->kind->value,
                            $number,
                            (int) $one->draftId,
                        ],
                    )
                    : $this->db->fetchOne(
                        'SELECT 1 FROM document WHERE company_id = ? AND live_number = ? AND id <> ?',
                        [$actor->companyId, $number, (int) $one->draftId],
                    ));
    }

    /**
     * @param list<InvoiceToPost> $toPost of one side
     *
     * @return array<string, true> the keys of those that another document holds
     */
    public function of(Actor $actor, array $toPost): array
    {
        $asked = [];
        foreach ($toPost as $one) {
            $key = self::key($one->input);
            if (null !== $key) {
                $asked[] = [
                    'its' => $key,
                    'number' => mb_strtoupper($one->input->number),
                    'party' => $one->input->partyId,
                    'kind' => $one->input->kind->value,
                    'draft' => (int) $one->draftId,
                ];
            }
        }
        if ([] === $asked) {
            return [];
        }
        $found = $this->db->fetchFirstColumn(Side::Payables === $toPost[0]->input->side ? self::THEIRS : self::OURS, [
            'company' => $actor->companyId,
            'asked' => json_encode($asked, \JSON_THROW_ON_ERROR | \JSON_INVALID_UTF8_SUBSTITUTE),
        ]);

        return array_fill_keys(array_map(strval(...), $found), true);
    }
}
