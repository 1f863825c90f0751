<?php

namespace Brindle\KeepersLog;

class Desk {

	public function __construct( private Entries $entries ) {}

	public function menu(): void {
		add_management_page( 'Keepers log', 'Keepers log', Log::READ, 'keepers-log', $this->draw( ... ) );
	}

	private function draw(): void {
		echo '<h1>Keepers log</h1>';
		foreach ( $this->entries->all() as $entry ) {
			printf( '<p>%s: %s</p>', esc_html( $entry->at ), esc_html( $entry->words ) );
		}
	}
}
