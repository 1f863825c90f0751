<?php

namespace Brindle\KeepersLog;

final class Log {

	public const READ = 'read_keepers_log';

	public static function begin( Entries $entries ): void {
		$log = new self( $entries );
		add_action( 'init', $log->register( ... ) );
		add_action( 'rest_api_init', array( new Endpoints( $entries ), 'register' ) );
		if ( is_admin() ) {
			add_action( 'admin_menu', array( new Desk( $entries ), 'menu' ) );
		}
		add_filter( 'body_class', array( $log, 'body' ) );
	}

	private function __construct( private Entries $entries ) {}

	private function register(): void {
		register_block_type( dirname( MAIN ) . '/blocks/last-entry', array( 'render_callback' => array( $this, 'draw' ) ) );
	}

	public function draw(): string {
		$last = $this->entries->last();
		return $last ? '<p class="keepers-log">' . esc_html( $last->words ) . '</p>' : '';
	}

	/** @param string[] $classes */
	public function body( array $classes ): array {
		return is_front_page() ? array( ...$classes, 'with-log' ) : $classes;
	}
}
