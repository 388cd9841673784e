<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Which open items a list shows, as of which day, and in what order. */
final readonly class ItemFilter
{
    public const ORDERS = ['due', 'party', 'number', 'open', 'document_date'];
    public const ONLY = ['overdue', 'discount', 'unapplied', 'prepayments', 'unidentified', 'claims'];

    /** SQL over item i: whether it stands on a prepayment account. */
    private const PREPAID = <<<'SQL'
    i.account_id IN (SELECT a.id FROM account a WHERE a.company_id = i.company_id AND a.role LIKE '%\_prepayments')
    SQL;

    /** SQL over item i: whether it is a receipt of a payer who is not known. */
    private const UNIDENTIFIED = <<<'SQL'
    i.account_id IN (SELECT a.id FROM account a WHERE a.company_id = i.company_id AND a.role = 'unidentified_receipts')
    SQL;

    /** A discount that ends within so many days of the day is about to. */
    private const DISCOUNT_DAYS = 7;

    /**
     * @param string $text a part of the party's code or name
     * @param string $only one of ONLY, or empty for all
     * @param bool $settled what is settled too
     * @param string $order one of ORDERS
     */
    public function __construct(
        public int $companyId,
        public Side $side,
        public Day $day,
        public ?int $partyId = null,
        public string $text = '',
        public string $only = '',
        public bool $settled = false,
        public string $order = 'due',
    ) {
    }

    public function keyset(OpenAsOf $asOf): Keyset
    {
        return match ($this->order) {
            'party' => new Keyset(['p.code', 'i.due_date', 'i.id']),
            'number' => new Keyset(['i.number', 'i.id']),
            'open' => new Keyset([$asOf->open(), 'i.id'], true),
            'document_date' => new Keyset(['i.document_date', 'i.id']),
            default => new Keyset(['i.due_date', 'i.id']),
        };
    }

    /** @return array{string, array<string, string|int>} SQL over item i and party p, and its values */
    public function where(OpenAsOf $asOf): array
    {
        $open = $asOf->open();
        $where = [
            'i.company_id = :company',
            'i.side = :side',
            $this->settled ? 'i.posting_date <= :day' : $asOf->where(),
        ];
        $with = ['company' => $this->companyId, 'side' => $this->side->value, 'day' => $this->day->iso()];
        if (null !== $this->partyId) {
            $where[] = 'i.party_id = :party';
            $with['party'] = $this->partyId;
        }
        if ('' !== $this->text) {
            $where[] = '(p.code LIKE :text OR p.name LIKE :text)';
            $with['text'] = '%'.addcslashes($this->text, '%_\\').'%';
        }
        switch ($this->only) {
            case 'overdue':
                $where[] = "$open > 0 AND i.due_date < :day";
                break;
            case 'unapplied':
                $where[] = "$open < 0 AND i.kind IN ('receipt', 'payment', 'hand_over', 'from_prepayment')";
                $where[] = 'NOT '.self::PREPAID.' AND NOT '.self::UNIDENTIFIED;
                break;
            case 'unidentified':
                $where[] = "$open < 0 AND ".self::UNIDENTIFIED;
                break;
            case 'claims':
                $where[] = "$open <> 0 AND i.kind = 'claim'";
                break;
            case 'prepayments':
                $where[] = "$open < 0 AND ".self::PREPAID;
                break;
            case 'discount':
                $where[] = <<<SQL
                $open > 0 AND EXISTS (SELECT 1 FROM item_discount y WHERE y.item_id = i.id AND y.through BETWEEN :day AND :soon)
                SQL;
                $with['soon'] = $this->day->plusDays(self::DISCOUNT_DAYS)->iso();
        }

        return [implode(' AND ', $where), $with];
    }
}
