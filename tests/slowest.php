<?php

declare(strict_types=1);

/* The ten tests that took longest, of the reports that phpunit left. */
$times = [];
foreach (array_slice($argv, 1) as $file) {
    $report = new DOMDocument();
    if (!is_file($file) || !$report->load($file, \LIBXML_NONET)) {
        continue;
    }
    foreach ($report->getElementsByTagName('testcase') as $case) {
        $times[$case->getAttribute('class').'::'.$case->getAttribute('name')] = (float) $case->getAttribute('time');
    }
}
arsort($times);
foreach (array_slice($times, 0, 10) as $name => $seconds) {
    printf("%6.1f s  %s\n", $seconds, $name);
}
