<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Formats\Iban;
use Nelbix\Core\Formats\RoutingNumber;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** The bank accounts of a party beside its first one. A new or changed one waits for a second person before money may go there. */
final readonly class PartyBanks
{
    private const MOST = 10;
    private const LIMITS = ['label' => 60, 'iban' => 40, 'bic' => 15, 'routing_number' => 20, 'account_number' => 40];

    public function __construct(private Connection $db, private BankDetailsInUse $inUse)
    {
    }

    /**
     * @param array<mixed> $raw banks[] (id, label, iban, bic, routing_number, account_number); without the key nothing changes
     *
     * @return list<array{id: int, label: string, iban: string, bic: string, routing_number: string, account_number: string}>|null
     */
    public function read(array $raw, ProblemList $problems): ?array
    {
        if (!\is_array($raw['banks'] ?? null)) {
            return null;
        }
        $banks = [];
        foreach (\array_slice($raw['banks'], 0, self::MOST) as $row) {
            $fields = new Fields(\is_array($row) ? $row : []);
            $bank = [
                'label' => $fields->text('label'),
                'iban' => '',
                'bic' => strtoupper(str_replace(' ', '', $fields->text('bic'))),
                'routing_number' => '',
                'account_number' => str_replace(' ', '', $fields->text('account_number')),
            ];
            if ('' !== $fields->text('iban')) {
                $bank['iban'] =
                    $problems->attempt(static fn (): string => Iban::read($fields->text('iban'), 'banks')) ?? '';
            }
            if ('' !== $fields->text('routing_number')) {
                $bank['routing_number'] =
                    $problems->attempt(
                        static fn (): string => RoutingNumber::read($fields->text('routing_number'), 'banks'),
                    ) ?? '';
            }
            if ('' === $fields->text('iban').$fields->text('routing_number').implode('', $bank)) {
                continue;
            }
            if (
                '' === $fields->text('iban')
                && ('' === $fields->text('routing_number') || '' === $bank['account_number'])
            ) {
                $problems->add(
                    'banks',
                    'Another bank account needs an IBAN, or a routing number and an account number.',
                );
            }
            foreach (self::LIMITS as $key => $limit) {
                if (mb_strlen($bank[$key]) > $limit) {
                    $problems->add(
                        'banks',
                        \sprintf(
                            'The %s of a bank account is longer than %d characters.',
                            str_replace('_', ' ', $key),
                            $limit,
                        ),
                    );
                }
            }
            $banks[] = ['id' => (int) $fields->text('id'), ...$bank];
        }

        return $banks;
    }

    /** @return array<string, string> the other accounts in words, by id: for a history */
    public function words(int $partyId): array
    {
        $words = [];
        foreach ($this->of($partyId) as $b) {
            $words['account '.$b['id']] = implode(
                ' ',
                array_filter([$b['label'], $b['iban'], $b['bic'], $b['routing_number'], $b['account_number']]),
            );
        }

        return $words;
    }

    /**
     * @param list<array{id: int, label: string, iban: string, bic: string, routing_number: string, account_number: string}>|null $banks
     *
     * @return bool whether bank details changed
     *
     * @throws Refused when a payment on its way names an account that would change or go
     */
    public function keep(Actor $actor, int $partyId, ?array $banks): bool
    {
        if (null === $banks) {
            return false;
        }
        $known = array_column($this->of($partyId), null, 'id');
        $changed = [] !== array_diff_key($known, array_column($banks, null, 'id'));
        $kept = [0];
        foreach ($banks as $bank) {
            $old = $known[$bank['id']] ?? null;
            $values = [$bank['iban'], $bank['bic'], $bank['routing_number'], $bank['account_number']];
            if (
                null !== $old
                && $values === [$old['iban'], $old['bic'], $old['routing_number'], $old['account_number']]
            ) {
                $this->db->executeStatement('UPDATE party_bank SET label = ? WHERE id = ?', [
                    $bank['label'],
                    $bank['id'],
                ]);
                $kept[] = $bank['id'];
                continue;
            }
            $changed = true;
            $this->db->executeStatement(
                <<<'SQL'
                INSERT INTO party_bank (party_id, label, iban, bic, routing_number, account_number, changed_by_id)
                VALUES (?, ?, ?, ?, ?, ?, ?)
                SQL
                ,
                [$partyId, $bank['label'], ...$values, $actor->userId],
            );
            $kept[] = (int) $this->db->lastInsertId();
        }
        $gone = ' FROM party_bank WHERE party_id = ? AND id NOT IN ('.implode(',', $kept).')';
        // without it the money would go to the first account, unseen
        $going = array_map('intval', $this->db->fetchFirstColumn('SELECT id'.$gone, [$partyId]));
        $run = [] === $going ? null : $this->inUse->run($going);
        if (null !== $run) {
            throw Refused::because(
                'banks',
                \sprintf(
                    'The run %s pays to an account that would change or go; let it be paid or choose another account '.
                        'there first. A new account can be added beside it.',
                    $run,
                ),
            );
        }
        $this->db->executeStatement('DELETE'.$gone, [$partyId]);

        return $changed;
    }

    /**
     * @return list<array{id: int, label: string, iban: string, bic: string, routing_number: string, account_number: string,
     *     confirmed: bool, changed_by_id: int}>
     */
    public function of(int $partyId): array
    {
        /**
         * @var list<array{id: int, label: string, iban: string, bic: string, routing_number: string, account_number: string,
         *     confirmed: bool, changed_by_id: int}>
         */
        return array_map(
            static fn (array $r): array => [
                ...$r,
                'id' => (int) $r['id'],
                'confirmed' => (bool) $r['confirmed'],
                'changed_by_id' => (int) $r['changed_by_id'],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT id, label, iban, bic, routing_number, account_number, confirmed, changed_by_id
                FROM party_bank
                WHERE party_id = ?
                ORDER BY id
                SQL
                ,
                [$partyId],
            ),
        );
    }

    /**
     * The bank details of a party in short, to tell whether they are still those that somebody looked at.
     *
     * @param list<array<string, mixed>>|null $banks as of() gave them; null to read them
     */
    public function digest(Party $party, ?array $banks = null): string
    {
        $all = [[$party->iban, $party->bic, $party->routingNumber, $party->accountNumber, $party->bankConfirmed]];
        foreach ($banks ?? $this->of($party->id()) as $b) {
            $all[] = [$b['id'], $b['iban'], $b['bic'], $b['routing_number'], $b['account_number'], $b['confirmed']];
        }

        return substr(hash('sha256', json_encode($all, \JSON_THROW_ON_ERROR)), 0, 32);
    }

    /** Confirms what waits and was changed by somebody else. @return int how many */
    public function confirm(Actor $actor, int $partyId): int
    {
        return (int) $this->db->executeStatement(
            'UPDATE party_bank SET confirmed = 1 WHERE party_id = ? AND confirmed = 0 AND changed_by_id <> ?',
            [$partyId, $actor->userId],
        );
    }

    public function waiting(int $partyId): bool
    {
        return false !==
            $this->db->fetchOne('SELECT 1 FROM party_bank WHERE party_id = ? AND confirmed = 0 LIMIT 1', [$partyId]);
    }
}
