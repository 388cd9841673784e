<?php

declare(strict_types=1);

/*
 * What people do while tests/cluster kills a node: php tests/cluster.php clerks, batch, run or races, with what that asks for; see
 * tests/nodes.
 */
require __DIR__.'/nodes/Somebody.php';
require __DIR__.'/nodes/Rows.php';
require __DIR__.'/nodes/PaymentRun.php';
require match ($argv[1] ?? '') {
    'clerks' => __DIR__.'/nodes/clerks.php',
    'batch' => __DIR__.'/nodes/batch.php',
    'races' => __DIR__.'/nodes/races.php',
    'run' => __DIR__.'/nodes/run.php',
    default => throw new RuntimeException('clerks, batch, run or races'),
};
