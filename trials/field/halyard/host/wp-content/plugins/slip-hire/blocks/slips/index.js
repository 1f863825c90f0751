wp.blocks.registerBlockType( "slip-hire/slips", { edit: function () { return "Slips"; } } );
