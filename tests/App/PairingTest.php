<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Pairing\PairByHand;
use Nelbix\App\Pairing\PairingSet;
use Nelbix\App\Pairing\PostDifference;
use Nelbix\App\Pairing\RefreshRows;
use Nelbix\App\Pairing\RunPairing;
use Nelbix\App\Pairing\SisterSets;
use Nelbix\App\Pairing\Source;
use Nelbix\App\Pairing\UndoPairs;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Work\JobState;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\DomCrawler\Crawler;

/** Two lists that ought to agree, paired by rules, by hand and between sister companies. Source: rules.md, Pairing. */
final class PairingTest extends ScreenCase
{
    private Actor $sister;

    /** A vendor here that is a company, and what it says we owe it. */
    private function sisters(): int
    {
        $here = $this->clerk;
        $this->makeCompany('SIS');
        $this->sister = $this->clerk;
        $this->clerk = $here;
        foreach (['TEST' => 'US1', 'SIS' => 'US2'] as $code => $tax) {
            $this->db()->executeStatement('UPDATE company SET tax_number = ? WHERE code = ?', [$tax, $code]);
        }
        self::get(SaveParty::class)->save($this->clerk, Side::Payables, [
            'code' => 'SIS',
            'name' => 'Sister',
            'terms' => 'N30',
            'default_account' => '5000',
            'tax_number' => 'US2',
        ]);
        self::get(SaveParty::class)->save($this->sister, Side::Receivables, [
            'code' => 'US',
            'name' => 'Test',
            'terms' => 'N30',
            'default_account' => '4000',
            'tax_number' => 'US1',
        ]);
        $this->bought('S-1', '100.00');
        $this->sold('S-1', '100.00');
        $this->bought('S-2', '995.00');
        $this->sold('S-2', '1000.00');
        $this->sold('S-3', '77.00');
        $this->bought('S 4x', '60.00');
        $this->sold('S-4', '60.00');
        self::get(SisterSets::class)->ensure($this->clerk);

        return (int) $this->db()->fetchOne('SELECT MAX(id) FROM pairing_set');
    }

    private function bought(string $number, string $amount): int
    {
        return $this->invoice(Side::Payables, $amount, ['party' => 'SIS', 'number' => $number]);
    }

    private function sold(string $number, string $amount): int
    {
        $here = $this->clerk;
        $this->clerk = $this->sister;
        try {
            return $this->invoice(Side::Receivables, $amount, ['party' => 'US', 'number' => $number]);
        } finally {
            $this->clerk = $here;
        }
    }

    private function ran(int $set): JobState
    {
        self::get(RunPairing::class)->start($this->clerk, $set);

        return self::get(Worker::class)->finish(
            (int) $this->db()->fetchOne("SELECT MAX(id) FROM job WHERE kind = 'pairing'"),
        )->state;
    }

    /** @return list<string> pairs as "left=right state" */
    private function pairs(int $set): array
    {
        /** @var list<string> */
        return $this->db()->fetchFirstColumn(
            <<<'SQL'
            SELECT CONCAT(
                GROUP_CONCAT(IF(r.side = 'left', JSON_VALUE(r.fields, '$."their number"'), NULL) ORDER BY r.id SEPARATOR '+'), '=',
                GROUP_CONCAT(IF(r.side = 'right', r.number, NULL) ORDER BY r.id SEPARATOR '+'), ' ', p.state, ' ', p.difference)
            FROM pairing_pair p
            JOIN pairing_row r ON r.pair_id = p.id
            WHERE p.set_id = ?
            GROUP BY p.id, p.state, p.difference
            ORDER BY p.id
            SQL
            ,
            [$set],
        );
    }

    /** @param array<string, mixed> $fields */
    private function act(int $set, string $what, array $fields): Crawler
    {
        return $this->post('/TEST/pairing/'.$set, '/TEST/pairing/'.$set.'/'.$what, $fields);
    }

    private function pairId(string $state): string
    {
        return (string) $this->db()->fetchOne('SELECT MIN(id) FROM pairing_pair WHERE state = ?', [$state]);
    }

    public function testSisterCompaniesOutOfTheBox(): void
    {
        $set = $this->sisters();
        self::get(SisterSets::class)->ensure($this->sister);
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM pairing_set'), 'one for both');
        self::assertSame(JobState::Done, $this->ran($set));
        self::assertSame(['S-1=S-1 certain 0', 'S-2=S-2 asked 500', 'S 4x=S-4 asked 0'], $this->pairs($set));
        $page = $this->page('/TEST/pairing/'.$set)
            ->filter('main')
            ->text();
        self::assertStringContainsString('Missing on the left', $page);
        self::assertStringContainsString('77.00', $page);
        self::assertStringContainsString(
            'same their number, amounts differ, same day; rule 2',
            $page,
            'why a pair is asked about',
        );
        // again: what is paired stays, and nothing comes twice
        self::assertSame(JobState::Done, $this->ran($set));
        self::assertCount(3, $this->pairs($set));
        self::assertStringContainsString('something is left', $this->page('/TEST/pairing')->filter('table')->text());
    }

    public function testAskMeIsAnsweredAndTheDifferencePostedAndUndone(): void
    {
        $set = $this->sisters();
        $this->ran($set);
        $pair = $this->pairId('asked');
        self::assertStringContainsString(
            'Only a pair that stands',
            $this->act($set, 'difference', ['pair' => $pair, 'account' => '6850'])->text(),
        );
        self::assertStringContainsString(
            'They belong together',
            $this->act($set, 'decide', ['pair' => $pair, 'answer' => 'yes'])->text(),
        );
        self::assertStringContainsString(
            'decided already',
            $this->act($set, 'decide', ['pair' => $pair, 'answer' => 'no'])->text(),
        );
        self::assertStringContainsString(
            'is a bank account',
            $this->act($set, 'difference', ['pair' => $pair, 'account' => '1000'])->text(),
        );
        $owed = $this->balance('2100');
        self::assertStringContainsString(
            'posted and belongs to the pair',
            $this->act($set, 'difference', ['pair' => $pair, 'account' => '6850', 'date' => '2026-06-12'])->text(),
        );
        // we owe 5.00 more, as the other side says
        self::assertSame([$owed - 500, 500], [$this->balance('2100'), $this->balance('6850')]);
        self::assertStringContainsString(
            'posted already',
            $this->act($set, 'difference', ['pair' => $pair, 'account' => '6850'])->text(),
        );
        // the note is no row that is over
        $this->ran($set);
        self::assertSame(
            0,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM pairing_row WHERE side = 'left' AND pair_id IS NULL"),
        );
        $run = (string) $this->db()->fetchOne('SELECT MIN(id) FROM pairing_run');
        self::assertStringContainsString(
            'undo those pairs first',
            $this->act($set, 'undo-run', ['run' => $run])->text(),
        );
        self::assertStringContainsString('Say why', $this->act($set, 'undo', ['pair' => $pair])->text());
        self::assertStringContainsString(
            'taken apart',
            $this->act($set, 'undo', ['pair' => $pair, 'reason' => 'their mistake'])->text(),
        );
        self::assertSame([$owed, 0], [$this->balance('2100'), $this->balance('6850')]);
        self::assertStringContainsString(
            'was undone meanwhile',
            $this->act($set, 'undo', ['pair' => $pair, 'reason' => 'x'])->text(),
        );
        self::assertStringContainsString('2 pairs taken apart', $this->act($set, 'undo-run', ['run' => $run])->text());
        self::assertSame([], $this->pairs($set));
        self::assertStringContainsString('was undone already', $this->act($set, 'undo-run', ['run' => $run])->text());
        $this->ran($set);
        self::assertCount(3, $this->pairs($set));
    }

    public function testNoIsNoAndHandPairsWhatIsEqual(): void
    {
        $set = $this->sisters();
        $this->ran($set);
        $pair = $this->pairId('asked');
        $this->act($set, 'decide', ['pair' => $pair, 'answer' => 'no']);
        $rows = $this->db()->fetchFirstColumn(
            'SELECT id FROM pairing_row WHERE pair_id IS NULL AND (number = ? OR amount = 99500)',
            ['S-2'],
        );
        self::assertStringContainsString('differ by 5.00 USD', $this->act($set, 'hand', ['rows' => $rows])->text());
        self::assertStringContainsString(
            'at least one row of each side',
            $this->act($set, 'hand', ['rows' => [$rows[0]]])->text(),
        );
        $this->db()->executeStatement('UPDATE pairing_set SET hand_within = 500');
        self::get(EntityManagerInterface::class)->clear();
        self::assertStringContainsString('Paired by hand', $this->act($set, 'hand', ['rows' => $rows])->text());
        self::assertContains('S-2=S-2 by hand 500', $this->pairs($set));
        self::assertStringContainsString('paired by now', $this->act($set, 'hand', ['rows' => $rows])->text());
    }

    public function testWhatIsMissingHereBecomesADraft(): void
    {
        $set = $this->sisters();
        $this->ran($set);
        $row = (string) $this->db()->fetchOne("SELECT id FROM pairing_row WHERE number = 'S-3'");
        $draft = $this->act($set, 'mirror', ['row' => $row]);
        self::assertStringContainsString('A draft is made of it', $draft->text());
        $made = $this->db()->fetchAssociative("SELECT * FROM document WHERE state = 'draft'") ?: self::fail();
        self::assertSame(['S-3', $this->clerk->companyId], [$made['their_number'], (int) $made['company_id']]);
        self::assertStringContainsString('is here already', $this->act($set, 'mirror', ['row' => $row])->text());
        $own = (string) $this->db()->fetchOne("SELECT MIN(id) FROM pairing_row WHERE side = 'left'");
        self::assertStringContainsString(
            'Only what the other company has',
            $this->act($set, 'mirror', ['row' => $own])->text(),
        );
        $this->as('receivables');
        self::assertStringContainsString(
            'does not enter payables',
            $this->act($set, 'mirror', ['row' => $row])->text(),
        );
    }

    /** Who does not work in the other company sees that rows are there, and none of their amounts. */
    public function testAmountsOfTheOtherCompanyAreNotShown(): void
    {
        $set = $this->sisters();
        $this->ran($set);
        $this->db()->executeStatement('DELETE FROM membership WHERE company_id = ?', [$this->sister->companyId]);
        self::get(EntityManagerInterface::class)->clear();
        $this->as('controller');
        $page = $this->page('/TEST/pairing/'.$set)
            ->filter('main')
            ->text();
        self::assertStringContainsString('995.00', $page);
        self::assertStringNotContainsString('1,000.00', $page);
        self::assertStringNotContainsString('77.00', $page);
        $this->browser->request('GET', '/TEST/pairing/'.$set.'?format=csv');
        self::assertStringNotContainsString('77.00', (string) $this->browser->getResponse()->getContent());
        $this->browser->request('GET', '/TEST/pairing/'.$set.'/journal?format=csv');
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
        // nor does what would be posted of them give them away
        $row = (string) $this->db()->fetchOne("SELECT id FROM pairing_row WHERE number = 'S-3'");
        $pair = $this->pairId('asked');
        $this->act($set, 'decide', ['pair' => $pair, 'answer' => 'yes']);
        foreach (
            [['mirror', ['row' => $row]], ['difference', ['pair' => $pair, 'account' => '6850']]] as [$what, $sent]
        ) {
            self::assertStringContainsString('are not shown here', $this->act($set, $what, $sent)->text(), $what);
        }
        $this->db()->executeStatement('UPDATE pairing_set SET shows_other = 1');
        self::get(EntityManagerInterface::class)->clear();
        self::assertStringContainsString(
            '77.00',
            $this->page('/TEST/pairing/'.$set)
                ->filter('main')
                ->text(),
        );
    }

    /** An account against a file of somebody else: uploaded, its columns looked at, rules tried and run, the difference entered. */
    public function testAnAccountAgainstAFile(): void
    {
        foreach ([['10.00', 'A-1'], ['20.00', 'A-2'], ['7.50', 'A-3']] as [$amount, $text]) {
            $this->invoice(Side::Payables, $amount, [
                'lines' => [['account' => '6400', 'amount' => $amount, 'text' => $text]],
            ]);
        }
        $csv = "Date,Amount,Ref\n2026-06-10,10.00,a1\n2026-06-11,19.00,A-2\n2026-06-11,3.00,A-3\n2026-06-11,4.50,A-3\n";
        $sent = [
            'name' => 'Office against the supplier’s list',
            'left' => ['kind' => 'account', 'account' => '6400'],
            'right' => ['kind' => 'file'],
            'fields' => [['left' => 'text', 'right' => 'number', 'name' => 'ref']],
            'turned' => 'none',
            'adjusts' => 'left',
        ];
        $upload = self::upload($csv, 'list.csv');
        $page = $this->post('/TEST/pairing/new', '/TEST/pairing', $sent, ['right' => ['upload' => $upload]]);
        self::assertStringContainsString('look at its columns', $page->filter('.said-refused')->text());
        self::assertSame('Ref', $page->filter('#right-col-number option[selected]')->text());
        $kept = $this->browser->submit($page->filter('#set')->form());
        self::assertTrue($this->browser->getResponse()->isRedirection(), $kept->filter('body')->text());
        $set = (int) $this->db()->fetchOne('SELECT MAX(id) FROM pairing_set');
        self::assertStringContainsString('No rule of this set is switched on', $this->act($set, 'run', [])->text());
        $rule = [
            'left' => 'one',
            'right' => 'one',
            'agree' => ['ref'],
            'within' => '5 %',
            'sole' => '1',
            'certain' => '1',
            'account' => '6850',
        ];
        $tried = $this->act($set, 'rule/try', $rule)->text();
        self::assertStringContainsString('Of 3 rows left and 4 right', $tried);
        self::assertStringContainsString('in 2 pairs, −1.00 apart', $tried);
        $this->act($set, 'rule', [...$rule, '_action' => 'on']);
        $this->act($set, 'rule', ['right' => 'any', 'within' => '', '_action' => 'on'] + $rule);
        self::assertSame(JobState::Done, $this->ran($set));
        self::assertSame(3, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM pairing_pair'));
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM pairing_row WHERE pair_id IS NULL'));
        $pair = (string) $this->db()->fetchOne('SELECT id FROM pairing_pair WHERE difference <> 0');
        $this->browser->request('GET', '/TEST/pairing/'.$set.'/journal?format=csv');
        self::assertStringContainsString('6850,1.00', (string) $this->browser->getInternalResponse()->getContent());
        $another = $this->page('/TEST/pairing/'.$set.'/edit')
            ->filter('#set')
            ->form(['left[account]' => '6500']);
        self::assertStringContainsString('In this set 3 pairs stand', $this->browser->submit($another)->text());
        $this->as('payables');
        self::assertStringContainsString(
            'posted by a controller',
            $this->act($set, 'difference', ['pair' => $pair, 'account' => '6850'])->text(),
        );
        $this->as('controller');
        $this->act($set, 'difference', ['pair' => $pair, 'account' => '6850', 'date' => '2026-06-11']);
        self::assertSame([3_650, 100], [$this->balance('6400'), $this->balance('6850')]);
        $this->ran($set);
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM pairing_row WHERE pair_id IS NULL'));
        $this->act($set, 'undo', ['pair' => $pair, 'reason' => 'they found it']);
        self::assertSame([3_750, 0], [$this->balance('6400'), $this->balance('6850')]);
    }

    public function testEveryProblemOfASetAndOfARuleIsNamed(): void
    {
        $said = $this->post('/TEST/pairing/new', '/TEST/pairing', [
            'left' => ['kind' => 'items', 'company' => 'NONE'],
            'right' => ['kind' => 'account', 'account' => '9999'],
            'turned' => 'up',
            'adjusts' => 'left',
        ])
            ->filter('.said-refused')
            ->text();
        foreach (['needs a name', 'you do not work in it', 'There is no account', 'offered values'] as $part) {
            self::assertStringContainsString($part, $said);
        }
        $set = $this->sisters();
        $said = $this->act($set, 'rule', [
            'left' => 'two',
            'right' => 'one',
            'agree' => ['colour'],
            'within' => '60 %',
            'days' => '-1',
            'filters' => [
                ['field' => 'text', 'operation' => 'above', 'value' => 'x'],
                ['field' => 'amount', 'operation' => 'above', 'value' => 'x'],
            ],
        ])
            ->filter('.said-refused')
            ->text();
        foreach (
            [
                'one row of this side',
                'no field “colour”',
                'between 0 and 50',
                'whole number',
                'Of this field one asks',
                'not an amount',
            ] as $part
        ) {
            self::assertStringContainsString($part, $said);
        }
    }

    /** Rules are moved, switched off and retired; what is switched off takes nothing. */
    public function testRulesInTheirOrder(): void
    {
        $set = $this->sisters();
        $ids = array_map('intval', $this->db()->fetchFirstColumn('SELECT id FROM pairing_rule ORDER BY place'));
        $this->act($set, 'rule/'.$ids[2].'/change', ['what' => 'up']);
        $this->act($set, 'rule/'.$ids[0].'/change', ['what' => 'off']);
        $this->act($set, 'rule/'.$ids[1].'/change', ['what' => 'retire']);
        self::assertSame(
            [$ids[0], $ids[2]],
            array_map(
                'intval',
                $this->db()->fetchFirstColumn('SELECT id FROM pairing_rule WHERE retired = 0 ORDER BY place'),
            ),
        );
        $this->ran($set);
        self::assertSame(['S-1=S-1 asked 0', 'S 4x=S-4 asked 0'], $this->pairs($set));
    }

    /** Stopped between two rules what is paired stays; started again it goes on. */
    public function testARunIsStoppedAndGoneOnWith(): void
    {
        $set = $this->sisters();
        $run = self::get(RunPairing::class)->start($this->clerk, $set);
        $job = (int) $this->db()->fetchOne("SELECT MAX(id) FROM job WHERE kind = 'pairing'");
        $worker = self::get(Worker::class);
        $worker->slice($job);
        $worker->slice($job);
        self::assertSame(['S-1=S-1 certain 0'], $this->pairs($set));
        self::assertStringContainsString('is being run', $this->act($set, 'hand', ['rows' => ['1', '2']])->text());
        $this->act($set, 'stop', []);
        $worker->finish($job);
        self::assertSame('stopped', $this->db()->fetchOne('SELECT state FROM pairing_run WHERE id = ?', [$run]));
        self::assertCount(1, $this->pairs($set));
        $this->ran($set);
        self::assertCount(3, $this->pairs($set));
    }

    /** What the other company posted is reversed there; and no bank or control account is moved by a difference. */
    public function testADifferenceIsUndoneWhereItWasPosted(): void
    {
        $this->sisters();
        $line = static fn (string $amount): array => ['lines' => [['account' => '6400', 'amount' => $amount]]];
        $this->invoice(Side::Payables, '10.00', $line('10.00'));
        [$here, $this->clerk] = [$this->clerk, $this->sister];
        $this->invoice(Side::Payables, '12.00', $line('12.00'));
        $this->clerk = $here;
        $source = fn (Actor $in, string $account): array => (new Source(
            'account',
            $in->companyId,
            id: self::get(Chart::class)->any($in->companyId, $account, 'account'),
        ))->raw();
        $set = new PairingSet(
            $here->companyId,
            'Office',
            $source($here, '6400'),
            $source($this->sister, '6400'),
            'USD',
            1,
        );
        [$set->otherCompanyId, $set->adjusts, $set->handWithin] = [$this->sister->companyId, 'right', 200];
        $entities = self::get(EntityManagerInterface::class);
        $entities->persist($set);
        $entities->flush();
        self::get(RefreshRows::class)->refresh($set);
        $rows = $this->db()->fetchFirstColumn('SELECT id FROM pairing_row WHERE set_id = ?', [$set->id()]);
        $pair = self::get(PairByHand::class)->pair($here, $set->id(), array_map('intval', $rows));
        $post = fn (): string => self::said(
            fn () => self::get(PostDifference::class)->post(
                $this->sister,
                $set->id(),
                $pair,
                '6850',
                Day::of(self::DAY),
            ),
        );
        $adjusting = function (string $account) use ($set, $source): void {
            $raw = json_encode($source($this->sister, $account), \JSON_THROW_ON_ERROR);
            $this->db()->update('pairing_set', ['right_source' => $raw], ['id' => $set->id()]);
        };
        foreach (['1000' => 'is a bank account', '2100' => 'control account'] as $account => $why) {
            $adjusting((string) $account);
            self::assertStringContainsString($why, $post());
        }
        $adjusting('6400');
        self::assertSame('done', $post());
        $undo = fn (Actor $actor): string => self::said(
            fn () => self::get(UndoPairs::class)->undo($actor, $set->id(), $pair, 'x'),
        );
        $entries = fn (): int => (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry WHERE company_id = ?', [
            $here->companyId,
        ]);
        $before = $entries();
        self::assertStringContainsString('in the other company', $undo($here));
        self::assertSame($before, $entries());
        self::assertSame('done', $undo($this->sister));
        self::assertSame($before, $entries());
    }

    /** A set between two companies that this one is no side of is not there. */
    public function testASetOfOthersIsNotThere(): void
    {
        $set = $this->sisters();
        $record = self::get(EntityManagerInterface::class)->find(PairingSet::class, $set);
        self::assertNotNull($record);
        $company = self::get(EntityManagerInterface::class)->find(Company::class, $this->clerk->companyId);
        self::assertNotNull($company);
        $this->db()->executeStatement('UPDATE pairing_set SET company_id = other_company_id WHERE id = ?', [$set]);
        self::get(EntityManagerInterface::class)->clear();
        $this->browser->request('GET', '/TEST/pairing/'.$set);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
    }

    /** A vendor's statement that was checked is worked off as a set. */
    public function testAVendorsStatementBecomesASet(): void
    {
        $this->invoice(Side::Payables, '100.00', ['number' => 'F-1']);
        $this->invoice(Side::Payables, '50.00', ['number' => 'F-2']);
        $sent = ['party' => 'V-1', 'statement' => "F-1 100.00\nF2 51.00\nF-3 9.00"];
        $check = $this->post('/TEST/payables/statement-check', '/TEST/payables/statement-check', $sent);
        $this->browser->submit($check->selectButton('Work it off as a pairing set')->form());
        self::assertTrue($this->browser->getResponse()->isRedirection());
        $set = (int) $this->db()->fetchOne('SELECT MAX(id) FROM pairing_set');
        self::get(Worker::class)->finish((int) $this->db()->fetchOne("SELECT MAX(id) FROM job WHERE kind = 'pairing'"));
        self::assertSame(['F-1=F-1 certain 0', 'F-2=F2 asked 100'], $this->pairs($set));
        self::assertSame(
            ['F-3'],
            $this->db()->fetchFirstColumn('SELECT number FROM pairing_row WHERE pair_id IS NULL AND set_id = ?', [
                $set,
            ]),
        );
        $said = $this->post('/TEST/payables/statement-check', '/TEST/pairing/from-statement', [
            'party' => 'V-1',
            'statement' => 'nothing',
        ]);
        self::assertStringContainsString('No line has a number', $said->filter('.said-refused')->text());
    }
}
