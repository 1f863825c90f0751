jQuery( function ( $ ) {
	$( '.fog-signal' ).on( 'click', function () {
		$.post( sigw.url, { action: 'sigw_report', key: sigw.key } );
	} );
} );
