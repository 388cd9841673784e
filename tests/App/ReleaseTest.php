<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** A hold and a payment stop are taken away by whoever set them or an approver, and not paid by that approver then. Source: rules.md. */
final class ReleaseTest extends ScreenCase
{
    private function somebody(string $username): Actor
    {
        $em = self::get(EntityManagerInterface::class);

        return Actor::of(
            $em->getRepository(Company::class)->findOneBy(['code' => 'TEST']) ?? self::fail(),
            $em->getRepository(User::class)->findOneBy(['username' => $username]) ?? self::fail(),
        );
    }

    public function testAHoldIsReleasedByWhoeverSetItOrAnApprover(): void
    {
        $id = $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $change = self::get(ChangePosted::class);
        $payables = $this->somebody('payables');
        $change->hold($payables, $id, 'the price is wrong');
        self::assertStringContainsString(
            'whoever set it releases it, or somebody who approves',
            self::said(fn () => $change->release($this->clerk, $id)),
        );
        // the page offers it to those who may, and an approver finds the door open
        $page = '/TEST/payables/document/'.$id;
        self::assertCount(0, $this->page($page)->filter('form[action$="/release"]'));
        $this->as('approver');
        self::assertCount(1, $this->page($page)->filter('form[action$="/release"]'));
        self::assertStringContainsString('is released', $this->post($page, $page.'/release', [])->text());

        // what was released once is held again by another, and that one releases it
        $change->hold($this->clerk, $id, 'look again');
        self::assertSame('done', self::said(fn () => $change->release($this->clerk, $id)));
        self::assertStringContainsString('is not held', self::said(fn () => $change->release($this->clerk, $id)));
    }

    public function testWhoeverReleasedSomebodyElsesHoldDoesNotPayItOnThatDay(): void
    {
        $id = $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $change = self::get(ChangePosted::class);
        $change->hold($this->clerk, $id, 'the price is wrong');
        $change->release($this->approver, $id);
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY]);
        $proposal = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        self::assertStringContainsString(
            'You released VI-26-00001 today',
            self::said(fn () => self::get(DecideProposal::class)->decide($this->approver, $proposal, true)),
        );
        $this->db()->executeStatement("UPDATE released SET released_on = '2026-06-14'");
        self::assertSame(
            'done',
            self::said(fn () => self::get(DecideProposal::class)->decide($this->approver, $proposal, true)),
            'on another day it is approved',
        );
    }

    public function testTheSameAtThePaymentByHand(): void
    {
        $item = $this->itemOf(
            $id = $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $change = self::get(ChangePosted::class);
        $change->hold($this->somebody('payables'), $id, 'the price is wrong');
        $change->release($this->approver, $id);
        $this->db()->executeStatement('UPDATE released SET released_by_id = ?', [$this->clerk->userId]);
        $pay = fn (): int => $this->money(
            Side::Payables,
            10000,
            [new PlacementRequest($item, 10000)],
            kind: DocumentKind::Payment,
        );
        self::assertStringContainsString('You released VI-26-00001 today', self::said($pay));
        // one's own hold keeps nobody from paying
        $this->db()->executeStatement('UPDATE released SET set_by_id = released_by_id');
        self::assertSame('done', self::said($pay));
    }

    public function testAPaymentStopIsTakenAwayInTheSameWay(): void
    {
        $save = self::get(SaveParty::class);
        $vendor = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        $stop = fn (Actor $who, array $stops): string => self::said(
            fn () => $save->save($who, Side::Payables, ['stops' => $stops], $vendor),
        );
        $payables = $this->somebody('payables');
        self::assertSame('done', $stop($payables, ['payment' => ['reason' => 'bankrupt?', 'ends_on' => '']]));
        self::assertStringContainsString('the stop of Fenwick Timber (no payment)', $stop($this->clerk, []));
        self::assertStringContainsString(
            'the stop of Fenwick Timber (no payment)',
            $stop($this->clerk, ['payment' => ['reason' => 'bankrupt?', 'ends_on' => '2026-06-14']]),
            'nor ended sooner',
        );
        self::assertSame('done', $stop($this->clerk, ['payment' => ['reason' => 'so it is', 'ends_on' => '']]));
        self::assertStringContainsString(
            'the stop of Fenwick Timber (no payment)',
            $stop($this->clerk, []),
            'other words do not make it one’s own',
        );
        self::assertSame(
            'done',
            $stop($payables, ['payment' => ['reason' => 'bankrupt?', 'ends_on' => '2026-06-20']]),
            'whoever set it lets it end',
        );
        self::assertSame('done', $stop($this->approver, []));
        $item = $this->itemOf($this->invoice(Side::Payables, '100.00'));
        $this->db()->executeStatement('UPDATE released SET released_by_id = ?', [$this->clerk->userId]);
        self::assertStringContainsString(
            'You released Fenwick Timber today',
            self::said(
                fn () => $this->money(
                    Side::Payables,
                    10000,
                    [new PlacementRequest($item, 10000)],
                    kind: DocumentKind::Payment,
                ),
            ),
        );
    }
}
